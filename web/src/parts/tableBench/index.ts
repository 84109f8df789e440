export { SettingsSheet } from './SettingsSheet';
export { TableBench } from './TableBench';
export { TableRail } from './TableRail';
export { useDraft } from './useDraft';
