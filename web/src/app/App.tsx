import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import type { ComponentType } from 'react';
import { createBrowserRouter, RouterProvider } from 'react-router';

import { ApiProblem } from '../api/client';
import { BoardPage, NewJobPage, TrainerPage, OrderPage, STATIONS } from '../stations/registry';
import { Gate } from './Gate';
import { JobShell } from './JobShell';
import { NothingHere } from './NothingHere';
import { Sheet } from './SheetBoundary';
import { Shell } from './Shell';
import { theme } from '../parts/theme';

const queryClient = new QueryClient({
    defaultOptions: {
        queries: {
            staleTime: 5_000,
            retry: (count, error) => !(error instanceof ApiProblem) && count < 2,
        },
    },
});

const sheet = (Page: ComponentType) => (
    <Sheet>
        <Page />
    </Sheet>
);

const router = createBrowserRouter([
    {
        element: <Gate />,
        children: [
            {
                element: <Shell />,
                children: [
                    { path: '/', element: sheet(BoardPage) },
                    { path: '/jobs/new', element: sheet(NewJobPage) },
                    { path: '/trainer', element: sheet(TrainerPage) },
                    { path: '*', element: <NothingHere /> },
                ],
            },
            {
                path: '/jobs/:jobId',
                element: <JobShell />,
                children: [
                    { index: true, element: sheet(OrderPage) },
                    ...STATIONS.flatMap(({ routes }) =>
                        routes.map(({ path, page }) => ({ path, element: sheet(page) })),
                    ),
                    { path: '*', element: <NothingHere /> },
                ],
            },
        ],
    },
]);

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
