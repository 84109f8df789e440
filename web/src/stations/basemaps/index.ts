export { BaseMapsPage } from './BaseMapsPage';
