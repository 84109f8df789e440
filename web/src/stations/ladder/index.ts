export { LadderPage } from './LadderPage';
