import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { memo } from 'react';

import type { Schemas } from '../../api/client';
import { useJob } from '../jobContext';
import { inUnits } from '../../units/said';
import { ReasonBox } from '../ReasonBox';

export type Finding = Schemas['TableFindingOut'];

interface Props {
    findings: readonly Finding[];
    pending: boolean;
    error: Error | null;
    onShow: (finding: Finding) => void;
    onAccept: (finding: Finding, reason: string) => void;
}

const COLOURS: Record<Finding['severity'], string> = { stop: 'error.main', attention: 'warning.main', note: 'ink.faint' };
const WORDS: Record<Finding['severity'], string> = { stop: 'stop', attention: 'look', note: 'note' };

/** What stands out in the table as it is now; each can be accepted with a reason. */
export const Checks = memo(function Checks({ findings, pending, error, onShow, onAccept }: Props) {
    const { job } = useJob();
    return (
        <Box aria-label="Checks">
            <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                Checks
            </Typography>
            {findings.length === 0 && <Typography variant="body2">Smooth, within bounds, nothing lean or too early under load.</Typography>}
            <Stack component="ul" spacing={1} sx={{ listStyle: 'none', m: 0, p: 0 }}>
                {findings.map((finding) => (
                    <Box component="li" key={finding.identifier} sx={{ borderLeft: 4, borderColor: finding.accepted ? 'divider' : COLOURS[finding.severity], pl: 1 }}>
                        <Button size="small" onClick={() => onShow(finding)} sx={{ p: 0, minWidth: 0, textAlign: 'left', justifyContent: 'flex-start' }}>
                            {finding.title}
                            <Box component="span" sx={{ fontWeight: 400, ml: 0.75, color: finding.accepted ? 'text.secondary' : COLOURS[finding.severity] }}>
                                {finding.accepted ? 'accepted' : WORDS[finding.severity]}
                            </Box>
                        </Button>
                        <Typography variant="body2">{inUnits(finding.sentence, job.units)}</Typography>
                        {finding.accepted ? (
                            <Typography variant="caption" component="p" sx={{ m: 0 }}>
                                {finding.accepted_by}: {finding.accepted}
                            </Typography>
                        ) : (
                            <ReasonBox
                                title="Accept it"
                                label="Why it is right"
                                button="Accept"
                                pending={pending}
                                error={error}
                                onWrite={(reason) => onAccept(finding, reason)}
                            />
                        )}
                    </Box>
                ))}
            </Stack>
        </Box>
    );
});
