import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { Suspense } from 'react';
import { createBrowserRouter, matchRoutes, RouterProvider } from 'react-router';

import { ApiProblem } from '../api/client';
import { AccountPage, GuidePage, BoardPage, NewJobPage, TrainerPage, OrderPage, STATIONS } from '../stations/registry';
import { Gate } from './Gate';
import { NothingHere } from './NothingHere';
import { Sheet } from './SheetBoundary';
import { Shell } from './Shell';
import { lazyPage, type LazyPage } from '../parts/lazyPage';
import { Loading } from '../parts/Loading';
import { theme } from '../parts/theme';

const GuestDoor = lazyPage(() => import('./GuestDoor'), 'GuestDoor');
const JobShell = lazyPage(() => import('./JobShell'), 'JobShell');

const queryClient = new QueryClient({
    defaultOptions: {
        queries: {
            staleTime: 5_000,
            retry: (count, error) => !(error instanceof ApiProblem) && count < 2,
        },
    },
});

const sheet = (Page: LazyPage) => ({
    element: (
        <Sheet>
            <Page />
        </Sheet>
    ),
    handle: Page.fetch,
});

const routes = [
    { path: '/guest/:secret', ...sheet(GuestDoor) },
    {
        element: <Gate />,
        children: [
            {
                element: <Shell />,
                children: [
                    { path: '/', ...sheet(BoardPage) },
                    { path: '/jobs/new', ...sheet(NewJobPage) },
                    { path: '/account', ...sheet(AccountPage) },
                    { path: '/guide', ...sheet(GuidePage) },
                    { path: '/trainer', ...sheet(TrainerPage) },
                    { path: '*', element: <NothingHere /> },
                ],
            },
            {
                path: '/jobs/:jobId',
                element: (
                    <Suspense fallback={<Loading what="Opening the job" />}>
                        <JobShell />
                    </Suspense>
                ),
                handle: JobShell.fetch,
                children: [
                    { index: true, ...sheet(OrderPage) },
                    ...STATIONS.flatMap(({ routes }) =>
                        routes.map(({ path, page }) => ({ path, ...sheet(page) })),
                    ),
                    { path: '*', element: <NothingHere /> },
                ],
            },
        ],
    },
];

// The sheet is fetched while it is found out who is there.
for (const { route } of matchRoutes(routes, window.location) ?? []) {
    if ('handle' in route) void route.handle();
}

const router = createBrowserRouter(routes);

export function App() {
    return (
        <ThemeProvider theme={theme} defaultMode="light">
            <CssBaseline />
            <QueryClientProvider client={queryClient}>
                <RouterProvider router={router} />
            </QueryClientProvider>
        </ThemeProvider>
    );
}
