import { useMutation, useQueryClient } from '@tanstack/react-query';

import { client, unwrap, type Injectors, type Sensor, type Supply } from '../api/client';
import { hardwareQuery } from '../api/hardware';

/** Keep a part in the workshop's library, for the next job. */
export function useKeep() {
    const queryClient = useQueryClient();
    return useMutation({
        mutationFn: (part: { sensor: Sensor } | { injectors: Injectors } | { supply: Supply }) =>
            unwrap(client.POST('/api/library', { body: part })),
        onSuccess: () => queryClient.invalidateQueries({ queryKey: hardwareQuery.queryKey }),
    });
}
