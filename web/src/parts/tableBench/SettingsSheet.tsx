import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import Typography from '@mui/material/Typography';
import { useState, type Dispatch } from 'react';

import { client, unwrap, type Calibration, type Schemas } from '../../api/client';
import { useJob } from '../jobContext';
import { WithMargin } from '../Margin';
import { inUnits } from '../../units/said';
import { parseNumber } from '../../units/units';
import { NumberField } from '../NumberField';
import { ProvenanceMark } from '../ProvenanceMark';
import { useComputed } from '../useComputed';
import { CellNote } from './CellNote';
import { displayOf } from './display';
import { drafted, type Draft, type DraftAction } from '../draft/draft';
import { gridOf, marksOf, tableOf } from '../draft/grid';
import { SaveStrip } from '../draft/SaveStrip';

interface Props {
    base: Calibration;
    newest: number;
    forms: Record<string, Schemas['ControllerForm']>;
    draft: Draft;
    dispatch: Dispatch<DraftAction>;
}

/** Limits and switching conditions that are single numbers, one to a line. */
export function SettingsSheet({ base, newest, forms, draft, dispatch }: Props) {
    const { job, vocabulary } = useJob();
    const definitions = vocabulary.tables.filter(({ key, group }) => group === 'setting' && base.settings[key]);
    const [selected, setSelected] = useState(definitions[0]?.key ?? '');
    const now = Object.fromEntries(
        definitions.map(({ key }) => {
            const table = tableOf(base, key);
            const saved = table ? gridOf(table) : [[0]];
            return [key, { saved: saved[0]?.[0] ?? 0, value: drafted(saved, key, draft.done)[0]?.[0] ?? 0, mark: table ? marksOf(table)[0]?.[0] : undefined }];
        }),
    );
    const check = useComputed(
        `check-${job.id}-${base.revision}`,
        { revision: base.revision, tables: Object.fromEntries(Object.entries(now).map(([key, { value }]) => [key, value])) },
        (body) => unwrap(client.POST('/api/jobs/{job_id}/table-bench/check', { params: { path: { job_id: job.id } }, body })),
    );
    const here = definitions.find(({ key }) => key === selected);
    const state = now[selected];
    return (
        <WithMargin
            margin={
                here && state ? (
                    <CellNote
                        definition={here}
                        display={displayOf(here, forms[here.key], job.units, false)}
                        place=""
                        index={[]}
                        at={[]}
                        value={state.value}
                        saved={state.saved}
                        mark={state.mark}
                        hits={undefined}
                    />
                ) : (
                    <Typography variant="body2">Choose a setting.</Typography>
                )
            }
        >
            <Typography variant="h1" sx={{ mb: 1, fontSize: '1.25rem' }}>
                Settings
            </Typography>
            <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
                {definitions.map((definition) => {
                    const { key } = definition;
                    const display = displayOf(definition, forms[key], job.units, false);
                    const entry = now[key];
                    const findings = (check.data ?? []).filter((finding) => finding.table === key && !finding.accepted);
                    return (
                        <Box component="li" key={key} onFocus={() => setSelected(key)} sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', sm: '1fr 190px' }, gap: 1.5, py: 0.75, borderBottom: 1, borderColor: 'divider', alignItems: 'center' }}>
                            <div>
                                <Stack direction="row" sx={{ gap: 1, alignItems: 'center' }}>
                                    {entry?.mark && <ProvenanceMark kind={entry.mark.kind} />}
                                    <Typography sx={{ fontWeight: 600 }}>{definition.title}</Typography>
                                </Stack>
                                <Typography variant="body2" color="text.secondary">
                                    {definition.meaning}
                                </Typography>
                                {findings.map((finding) => (
                                    <Typography key={finding.identifier} variant="body2" sx={{ color: finding.severity === 'stop' ? 'error.main' : 'warning.main' }}>
                                        {inUnits(finding.sentence)}
                                    </Typography>
                                ))}
                            </div>
                            <SettingField
                                key={`${entry?.value}`}
                                definition={definition}
                                label={definition.short}
                                unit={display.unit}
                                value={display.show(entry?.value ?? 0)}
                                decimals={display.decimals}
                                onTake={(shown) =>
                                    dispatch({
                                        type: 'step',
                                        step: { table: key, said: 'Typed', changes: [{ row: 0, column: 0, from: entry?.value ?? 0, to: Number(display.read(shown).toPrecision(9)) }] },
                                    })
                                }
                                lower={display.show(definition.lower)}
                                upper={display.show(definition.upper)}
                            />
                        </Box>
                    );
                })}
            </Box>
            <SaveStrip base={base} newest={newest} definitions={vocabulary.tables} draft={draft} dispatch={dispatch} />
        </WithMargin>
    );
}

interface FieldProps {
    definition: Schemas['TableDefinition'];
    label: string;
    unit: string;
    value: number;
    decimals: number;
    lower: number;
    upper: number;
    onTake: (shown: number) => void;
}

/** One number: taken when it is left or Enter is pressed, refused where it is out of its bounds. */
function SettingField({ definition, label, unit, value, decimals, lower, upper, onTake }: FieldProps) {
    const [text, setText] = useState(String(Number(value.toFixed(decimals))));
    const number = parseNumber(text);
    const problem =
        number === null ? 'This is not a number.' : number < lower || number > upper ? `Between ${Number(lower.toFixed(decimals))} and ${Number(upper.toFixed(decimals))} ${unit}.` : undefined;
    const take = () => {
        if (!problem && number !== null && Math.abs(number - value) > 1e-9) onTake(number);
    };
    return (
        <Box
            onBlur={take}
            onKeyDown={(event) => {
                if (event.key === 'Enter') take();
                if (event.key === 'Escape') setText(String(Number(value.toFixed(decimals))));
            }}
            title={definition.title}
        >
            <NumberField label={label} unit={unit} value={text} onChange={setText} error={problem} />
        </Box>
    );
}
