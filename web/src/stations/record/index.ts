export { RecordPage } from './RecordPage';
