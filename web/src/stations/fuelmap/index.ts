export { FuelMapPage } from './FuelMapPage';
