export { PrintPage } from './PrintPage';
export { WiringPage } from './WiringPage';
