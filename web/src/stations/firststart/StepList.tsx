import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { Mark } from '../../parts/Mark';
import { moment } from '../../parts/when';

interface Props {
    sheet: Schemas['SheetOut'];
    chosen: string | null;
    onChoose: (key: string) => void;
}

/** All steps by part: done by whom and when, skipped and why, or still to do. */
export function StepList({ sheet, chosen, onChoose }: Props) {
    const parts = [...new Set(sheet.steps.map(({ part_title }) => part_title))];
    const closed = sheet.steps.filter((step) => step.closed).length;
    return (
        <>
            <Typography variant="h2" sx={{ mb: 1 }}>
                {closed} of {sheet.steps.length} steps
            </Typography>
            {parts.map((part) => (
                <Box key={part} sx={{ mb: 1 }}>
                    <Typography variant="h3" component="h3">
                        {part}
                    </Typography>
                    {sheet.steps
                        .filter(({ part_title }) => part_title === part)
                        .map((step) => (
                            <ButtonBase key={step.key} onClick={() => onChoose(step.key)} aria-current={step.key === chosen} sx={{ font: 'inherit', display: 'block', width: '100%', textAlign: 'left', py: 0.75, borderLeft: 3, borderColor: step.key === chosen ? 'primary.main' : 'transparent', pl: 1 }}>
                                <Box sx={{ display: 'flex', justifyContent: 'space-between', gap: 1 }}>
                                    <span>{step.title}</span>
                                    {step.done && <Mark state={step.done.skipped ? 'suspicious' : step.closed ? 'pass' : 'fail'} word={false} />}
                                </Box>
                                {step.done && (
                                    <Typography variant="caption" component="div">
                                        {step.done.skipped ? `Skipped: ${step.done.skipped}` : step.at ? `${moment(step.at)}, ${step.by}` : ''}
                                    </Typography>
                                )}
                            </ButtonBase>
                        ))}
                </Box>
            ))}
        </>
    );
}
