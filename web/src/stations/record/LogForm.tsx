import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Stack from '@mui/material/Stack';
import type { ChangeEvent } from 'react';

import { useJob } from '../../parts/jobContext';
import { ProblemNote } from '../../parts/ProblemNote';
import { visuallyHidden } from '../../parts/visuallyHidden';
import { CircumstanceFields } from './CircumstanceFields';
import { circumstancesOf } from './circumstances';
import { DropField } from './DropField';
import { MappingTable } from './MappingTable';
import type { Preview } from './preview';
import { Questions } from './Questions';
import { StartsInLog } from './StartsInLog';
import { isReadable, useReading, useSaveLog, useStarts } from './useLogUpload';

/** Bring a log: drop it, see how it is read and which starts it holds, save it, have them judged. */
export function LogForm() {
    const reading = useReading();
    const { read } = reading;
    return (
        <Stack spacing={2}>
            <DropField onFile={reading.take} fileName={reading.name} />
            {reading.name && (
                <Button component="label" role={undefined} tabIndex={-1} variant="outlined" sx={{ alignSelf: 'start' }}>
                    Bus log: bring its DBC file
                    <Box component="input" type="file" accept=".dbc" aria-label="DBC file" sx={visuallyHidden} onChange={(event: ChangeEvent<HTMLInputElement>) => reading.nameSignals(event.target.files?.[0])} />
                </Button>
            )}
            {read.isPending && (
                <Stack direction="row" spacing={2} sx={{ alignItems: 'center' }}>
                    <LinearProgress sx={{ flex: 1 }} aria-label="Reading the file" />
                    <Button onClick={reading.cancel}>Cancel</Button>
                </Stack>
            )}
            {read.error && read.error.name !== 'AbortError' && <ProblemNote error={read.error} />}
            {read.data && <Understood key={read.data.upload_id} preview={read.data} reading={reading} />}
        </Stack>
    );
}

interface UnderstoodProps {
    preview: Preview;
    reading: ReturnType<typeof useReading>;
}

/** What is known of the file: its questions, its starts, its columns, and what it does not say. */
function Understood({ preview, reading }: UnderstoodProps) {
    const { job } = useJob();
    const { mapping, decide, name, read } = reading;
    const { save, progress, cancel, circumstances, setCircumstances } = useSaveLog(name, mapping);
    const asksCoolant = !preview.uses.some((use) => use.channel === 'coolant_c');
    const coolant = asksCoolant ? circumstancesOf(circumstances, job.units).coolant_c : null;
    const ready = isReadable(preview) && !read.isPending && (!asksCoolant || coolant !== null);
    const { starts, chosen, choose } = useStarts(preview, mapping, coolant, ready);
    return (
        <>
            <Questions questions={preview.questions} onAnswer={decide} />
            <CircumstanceFields value={circumstances} onChange={setCircumstances} askCoolant={asksCoolant} />
            {ready && (
                <StartsInLog
                    starts={starts.data}
                    pending={starts.isPending}
                    error={starts.error}
                    chosen={chosen}
                    onChoose={choose}
                />
            )}
            {save.error && save.error.name !== 'AbortError' && <ProblemNote error={save.error} />}
            {progress && (
                <Stack direction="row" spacing={2} sx={{ alignItems: 'center' }}>
                    <LinearProgress variant="determinate" value={100 * progress.share} sx={{ flex: 1 }} aria-label={progress.sentence || 'Reading the log'} />
                    <Button onClick={cancel}>Cancel</Button>
                </Stack>
            )}
            <Button
                variant="contained"
                size="large"
                sx={{ alignSelf: 'start', minHeight: 48 }}
                disabled={!ready || chosen.length === 0 || save.isPending}
                onClick={() => save.mutate({ preview, chosen })}
            >
                {chosen.length > 1 ? `Save the log and judge ${chosen.length} starts` : 'Save the log and judge the start'}
            </Button>
            <MappingTable preview={preview} onChange={(column, choice) => decide({ [column]: choice })} />
        </>
    );
}
