import Typography from '@mui/material/Typography';

import type { Schemas } from '../../api/client';
import { Facts } from '../../parts/Facts';

/** Reserve, pressure and power: the figures that follow from the supply. */
export function SupplyMargin({ sheet }: { sheet: Schemas['SupplySheet'] | null | undefined }) {
    if (!sheet) {
        return <Typography variant="body2">Begin from a known pump or enter what it gives. Reserve and power stand here while you type.</Typography>;
    }
    const { margin, prime, decay } = sheet;
    return (
        <>
            {margin.lines.map((line) => (
                <Facts
                    key={line.fuel}
                    title={`On ${line.fuel}`}
                    facts={[
                        { name: 'Most drawn', value: Math.max(...line.demand_l_h), unit: 'l/h', decimals: 0 },
                        { name: 'Reaches the rail', value: line.available_l_h, unit: 'l/h', decimals: 0 },
                        { name: 'Supply ÷ demand', value: line.reserve, unit: '', decimals: 2 },
                        { name: 'Falls short from', value: line.ends_at_rpm, unit: 'rpm', decimals: 0 },
                        { name: 'Falls short at boost', value: line.ends_at_boost_kpa, unit: 'kPa', decimals: 0 },
                        { name: 'Carries about', value: line.power_kw, unit: 'kW', decimals: 0 },
                    ]}
                />
            ))}
            <Facts
                title="Pressure"
                facts={[
                    { name: 'Pump works against', value: margin.pump_pressure_kpa, unit: 'kPa', decimals: 0 },
                    { name: 'Lost before the rail', value: margin.rail_drop_kpa, unit: 'kPa', decimals: 0 },
                ]}
            />
            {margin.beyond_data && (
                <Typography variant="body2" sx={{ borderLeft: 3, borderColor: 'warning.main', pl: 1, mb: 2 }}>
                    The pump&rsquo;s curve had to be extended beyond its data.
                </Typography>
            )}
            {prime && (
                <Facts
                    title="Prime"
                    facts={[
                        { name: 'Built after', value: prime.built_s, unit: 's', decimals: 1 },
                        { name: 'Let the pump run', value: prime.prime_s, unit: 's', decimals: 1 },
                        { name: 'Ends at', value: prime.final_kpa, unit: 'kPa', decimals: 0 },
                    ]}
                />
            )}
            {decay && (
                <Facts
                    title="Residual pressure"
                    facts={[
                        { name: 'Half is gone after', value: decay.half_minutes, unit: 'min', decimals: 1 },
                        { name: 'Left after ten minutes', value: decay.after_ten_pct, unit: '%', decimals: 0 },
                    ]}
                />
            )}
        </>
    );
}
