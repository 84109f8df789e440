import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { Link } from 'react-router';

import type { ControllerProfile, Schemas, WiringLine, WiringVocabulary } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { WithMargin } from '../../parts/Margin';
import { mono } from '../../parts/theme';
import { formatNumber } from '../../units/units';
import { Mark } from '../../parts/Mark';
import { visuallyHidden } from '../../parts/visuallyHidden';
import { grouped, type Grouping } from './grouped';
import { LineMargin } from './LineMargin';
import { SaveHead } from './SaveHead';
import { SignOff } from './SignOff';
import { Swatch } from './Swatch';
import type { WiringWork } from './useWiring';

interface Props {
    work: WiringWork;
    words: WiringVocabulary;
    profile: ControllerProfile;
}

const HEADS = ['Pin', 'Function', 'Wire', 'mm²', 'Length, m', 'Current, A', 'Lost, V', 'Fuse, A', 'At the bench'];

/** Every wire, checked with a meter at the bench and signed off. */
export function ListSheet({ work, words, profile }: Props) {
    const { job } = useJob();
    const [by, setBy] = useState<Grouping>('connector');
    const [selected, setSelected] = useState<string | null>(null);
    const { plan, wiring } = work;
    const checks = new Map(wiring.checks.map((check) => [check.line, check]));
    const changed = new Map(work.changes.map((change) => [change.key, change]));
    const line = plan.lines.find((entry) => entry.key === selected);
    const done = plan.lines.filter((entry) => {
        const check = checks.get(entry.key);
        return check?.good && !check.stale;
    }).length;
    return (
        <WithMargin follows margin={<LineMargin key={selected} line={line} check={line && checks.get(line.key)} change={line && changed.get(line.key)} work={work} words={words} />}>
            <SaveHead title="Wiring list" work={work}>
                <Button component={Link} to={`/jobs/${job.id}/wiring/print`} variant="outlined">
                    Print
                </Button>
                <Button component="a" href={`/api/jobs/${job.id}/wiring/list.csv`} variant="outlined">
                    CSV
                </Button>
            </SaveHead>
            <SignOff work={work} done={done} />
            <ToggleButtonGroup exclusive size="small" value={by} aria-label="Grouped by" onChange={(_, value: Grouping | null) => value && setBy(value)} sx={{ mb: 1 }}>
                <ToggleButton value="connector">By connector</ToggleButton>
                <ToggleButton value="branch">By branch of the loom</ToggleButton>
            </ToggleButtonGroup>
            {grouped(plan.lines, by, profile, words).map(({ title, lines }) => (
                <Box key={title} component="section" aria-label={title} sx={{ mb: 2, overflowX: 'auto' }}>
                    <Typography variant="h3" component="h2" sx={{ mb: 0.5 }}>
                        {title}
                    </Typography>
                    <Box component="table" sx={{ borderCollapse: 'collapse', width: '100%', minWidth: 700 }}>
                        <thead>
                            <tr>
                                {HEADS.map((head, i) => (
                                    <Box component="th" key={head} sx={{ textAlign: i > 2 && i < 8 ? 'right' : 'left', fontSize: '0.84rem', color: 'text.secondary', borderBottom: 1, borderColor: 'divider', px: 0.5, py: 0.25, whiteSpace: 'nowrap' }}>
                                        {head}
                                    </Box>
                                ))}
                            </tr>
                        </thead>
                        <tbody>
                            {lines.map((entry) => (
                                <Row key={entry.key} line={entry} check={checks.get(entry.key)} isChanged={changed.has(entry.key)} isSelected={entry.key === selected} onSelect={() => setSelected(entry.key)} />
                            ))}
                        </tbody>
                    </Box>
                </Box>
            ))}
            <Typography variant="caption">{words.size_source}</Typography>
        </WithMargin>
    );
}

interface RowProps {
    line: WiringLine;
    check: Schemas['WireCheckOut'] | undefined;
    isChanged: boolean;
    isSelected: boolean;
    onSelect: () => void;
}

function Row({ line, check, isChanged, isSelected, onSelect }: RowProps) {
    const figure = { fontFamily: mono, fontSize: '0.88rem', textAlign: 'right', px: 0.5, whiteSpace: 'nowrap' } as const;
    const state = !check || check.stale ? null : check.good ? 'pass' : 'fail';
    return (
        <Box
            component="tr"
            onClick={onSelect}
            sx={{ cursor: 'pointer', bgcolor: isSelected ? 'action.selected' : 'transparent', '&:hover': { bgcolor: 'action.hover' }, '& td': { borderBottom: 1, borderColor: 'divider', py: 0.35 } }}
        >
            <Box component="td" sx={{ fontFamily: mono, px: 0.5, borderLeft: 4, borderLeftColor: isChanged ? 'warning.main' : 'transparent' }}>
                {line.pin || '–'}
            </Box>
            <Box component="td" sx={{ px: 0.5 }}>
                <Box
                    component="button"
                    type="button"
                    aria-pressed={isSelected}
                    onFocus={onSelect}
                    sx={{ font: 'inherit', color: 'inherit', background: 'none', border: 0, p: 0, textAlign: 'left', cursor: 'pointer', minHeight: 26 }}
                >
                    {line.title}
                    {isChanged && (
                        <Box component="span" sx={{ color: 'warning.main', fontWeight: 650 }}>
                            {' '}
                            △ changed
                        </Box>
                    )}
                </Box>
            </Box>
            <Box component="td" sx={{ px: 0.5, whiteSpace: 'nowrap' }}>
                <Swatch colour={line.colour} />
            </Box>
            <Box component="td" sx={{ ...figure, color: line.too_thin ? 'error.main' : 'inherit' }}>
                {formatNumber(line.size_mm2, 2)}
                {line.too_thin && <Box component="span" sx={visuallyHidden}> too thin</Box>}
            </Box>
            <Box component="td" sx={figure}>{formatNumber(line.length_m, 1)}</Box>
            <Box component="td" sx={figure}>{formatNumber(line.current_a, 2)}</Box>
            <Box component="td" sx={figure}>{formatNumber(line.drop_v, 2)}</Box>
            <Box component="td" sx={figure}>{line.fuse_a ? String(line.fuse_a) : '–'}</Box>
            <Box component="td" sx={{ px: 0.5, whiteSpace: 'nowrap' }}>
                {state ? (
                    <Stack direction="row" sx={{ gap: 0.75, alignItems: 'center' }}>
                        <Mark state={state} word={false} />
                        <Box component="span" sx={{ fontFamily: mono, fontSize: '0.85rem' }}>
                            {typeof check?.reading === 'number' ? `${check.reading} ${check.unit}` : 'ticked'}
                        </Box>
                    </Stack>
                ) : (
                    <Box component="span" sx={{ color: 'text.secondary', fontSize: '0.85rem' }}>
                        {check?.stale ? 'moved: again' : 'to do'}
                    </Box>
                )}
            </Box>
        </Box>
    );
}
