import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createBrowserRouter, RouterProvider } from 'react-router';

import { ApiProblem } from '../api/client';
import { BaseMapsPage } from '../stations/basemaps';
import { BoardPage } from '../stations/board';
import { InjectorsPage } from '../stations/injectors';
import { IntakePage } from '../stations/intake';
import { LadderPage } from '../stations/ladder';
import { NewJobPage } from '../stations/newjob';
import { OrderPage } from '../stations/order';
import { RecordPage } from '../stations/record';
import { SensorsPage } from '../stations/sensors';
import { TrialPage } from '../stations/trial';
import { TriggerPage } from '../stations/trigger';
import { PrintPage, WiringPage } from '../stations/wiring';
import { Gate } from './Gate';
import { JobShell } from './JobShell';
import { NothingHere } from './NothingHere';
import { Shell } from './Shell';
import { theme } from './theme';

const queryClient = new QueryClient({
    defaultOptions: {
        queries: {
            staleTime: 5_000,
            retry: (count, error) => !(error instanceof ApiProblem) && count < 2,
        },
    },
});

const router = createBrowserRouter([
    {
        element: <Gate />,
        children: [
            {
                element: <Shell />,
                children: [
                    { path: '/', element: <BoardPage /> },
                    { path: '/jobs/new', element: <NewJobPage /> },
                    { path: '*', element: <NothingHere /> },
                ],
            },
            {
                path: '/jobs/:jobId',
                element: <JobShell />,
                children: [
                    { index: true, element: <OrderPage /> },
                    { path: 'wiring/print', element: <PrintPage /> },
                    { path: 'wiring/:part?', element: <WiringPage /> },
                    { path: 'trigger/:part?', element: <TriggerPage /> },
                    { path: 'sensors/:part?/:sensor?', element: <SensorsPage /> },
                    { path: 'injectors/:part?', element: <InjectorsPage /> },
                    { path: 'intake/:part?', element: <IntakePage /> },
                    { path: 'base-maps/:part?/:table?', element: <BaseMapsPage /> },
                    { path: 'ladder', element: <LadderPage /> },
                    { path: 'record', element: <RecordPage /> },
                    { path: 'trials/:trialId', element: <TrialPage /> },
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
