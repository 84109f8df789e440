export { SettingsSheet } from './SettingsSheet';
export { TableBench } from './TableBench';
export { TableRail } from './TableRail';
