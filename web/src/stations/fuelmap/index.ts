export { DrivePlanPage } from './DrivePlanPage';
export { FuelMapPage } from './FuelMapPage';
