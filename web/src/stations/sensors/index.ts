export { SensorsPage } from './SensorsPage';
