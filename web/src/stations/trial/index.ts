export { TrialPage } from './TrialPage';
