export { FirstStartPage } from './FirstStartPage';
export { PrintSheetPage } from './PrintSheetPage';
