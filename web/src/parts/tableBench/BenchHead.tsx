import Box from '@mui/material/Box';
import Stack from '@mui/material/Stack';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { decimalsOf, formatNumber, namedUnit } from '../../units/units';
import { VIEWS, type View } from './layers';

interface Props {
    definition: Schemas['TableDefinition'];
    form: Schemas['ControllerForm'] | undefined;
    unit: string;
    isCanonical: boolean;
    onCanonical: (isCanonical: boolean) => void;
    view: View;
    hasSurface: boolean;
    hasDrives: boolean;
    onView: (view: View) => void;
    isFolded: boolean;
    onFold: (isFolded: boolean) => void;
}

/** Name and unit of the table, and how it is looked at. */
export function BenchHead({ definition, form, unit, isCanonical, onCanonical, view, hasSurface, hasDrives, onView, isFolded, onFold }: Props) {
    const offered = (Object.keys(VIEWS) as View[]).filter((key) => (hasSurface || (key !== 'surface' && key !== 'slices')) && (hasDrives || (key !== 'asked' && key !== 'band')));
    return (
        <Stack direction="row" sx={{ alignItems: 'center', gap: 1, mb: 1, flexWrap: 'wrap' }}>
            <Typography variant="h1" sx={{ flex: '1 1 auto', fontSize: '1.25rem' }}>
                {definition.title}
                <Box component="span" sx={{ fontWeight: 400, color: 'text.secondary', ml: 1, fontSize: '1rem' }}>
                    {unit}
                    {form?.known && `, controller’s step ${formatNumber(form.step, decimalsOf(form.step))} ${namedUnit(form.unit)}`}
                </Box>
            </Typography>
            {form?.known && (form.factor !== 1 || form.offset !== 0) && (
                <ToggleButtonGroup size="small" exclusive value={isCanonical} onChange={(_, next: boolean | null) => next !== null && onCanonical(next)}>
                    <ToggleButton value={false}>{form.unit}</ToggleButton>
                    <ToggleButton value={true}>{namedUnit(definition.unit)}</ToggleButton>
                </ToggleButtonGroup>
            )}
            <ToggleButton size="small" value="folded" selected={isFolded} onChange={() => onFold(!isFolded)} sx={{ py: 0.4, textTransform: 'none' }}>
                Whole width
            </ToggleButton>
            <ToggleButtonGroup size="small" exclusive value={view} onChange={(_, next: View | null) => next && onView(next)} aria-label="View">
                {offered.map((key) => (
                    <ToggleButton key={key} value={key} sx={{ py: 0.4, textTransform: 'none' }}>
                        {VIEWS[key]}
                    </ToggleButton>
                ))}
            </ToggleButtonGroup>
        </Stack>
    );
}
