import { formatNumber } from '../units/units';

/** How a pass of drives is written into cells, on its own sheet and on the table bench alike. */

/** A factor as the per cent that it changes, with its sign. */
export const signedPercent = (factor: number) => `${factor >= 1 ? '+' : '−'}${formatNumber(Math.abs(100 * (factor - 1)), 1)}`;

/** Half the width of a band of factors, in per cent. */
export const halfBand = (low: number, high: number) => `±${formatNumber(50 * (high - low), 1)}`;

/** How dark a cell is that was driven on for so long. [s → 0 to 1] */
export const stay = (seconds: number) => Math.min(1, seconds / 20);
