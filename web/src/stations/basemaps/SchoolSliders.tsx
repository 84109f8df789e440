import Box from '@mui/material/Box';
import Slider from '@mui/material/Slider';
import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { useJob } from '../../parts/jobContext';
import { inUnits } from '../../units/said';

interface Props {
    schools: readonly Schemas['SchoolChoice'][];
    onChoose: (key: string, value: string) => void;
}

/** Choices on which good installers differ, each with what it means for this engine. */
export function SchoolSliders({ schools, onChoose }: Props) {
    const { job } = useJob();
    return (
        <Box component="section" sx={{ mb: 2 }}>
            <Typography variant="h3" component="h2">
                Schools
            </Typography>
            <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: '1fr 1fr' }, columnGap: 4, rowGap: 1.5, mt: 0.5 }}>
                {schools.map((school) => {
                    const at = Math.max(
                        0,
                        school.options.findIndex((option) => option.value === school.chosen),
                    );
                    return (
                        <Box key={school.key} sx={{ minWidth: 0 }}>
                            <Box sx={{ display: 'grid', gridTemplateColumns: '118px minmax(0, 1fr)', alignItems: 'center', columnGap: 2 }}>
                                <Typography sx={{ fontWeight: 650 }} title={school.why}>
                                    {school.title}
                                </Typography>
                                <Box sx={{ px: 1 }}>
                                    <Slider
                                        aria-label={school.title}
                                        aria-valuetext={school.options[at]?.title}
                                        getAriaValueText={(value) => school.options[value]?.title ?? ''}
                                        size="small"
                                        value={at}
                                        min={0}
                                        max={school.options.length - 1}
                                        step={1}
                                        marks
                                        track={false}
                                        onChange={(_, value) => onChoose(school.key, school.options[value]?.value ?? school.chosen)}
                                        sx={{ display: 'block', mb: -0.5 }}
                                    />
                                    <Box sx={{ display: 'flex', justifyContent: 'space-between', fontSize: '0.84rem', color: 'text.secondary' }}>
                                        {school.options.map((option, i) => (
                                            <Box component="span" key={option.value} sx={{ fontWeight: i === at ? 700 : 400, color: i === at ? 'primary.main' : 'inherit' }}>
                                                {option.title}
                                            </Box>
                                        ))}
                                    </Box>
                                </Box>
                            </Box>
                            <Typography variant="body2" sx={{ mt: 0.25 }}>
                                {inUnits(school.options[at]?.consequence ?? '', job.units)}
                            </Typography>
                            <Typography variant="caption" color="text.secondary">
                                {school.why}
                            </Typography>
                        </Box>
                    );
                })}
            </Box>
        </Box>
    );
}
