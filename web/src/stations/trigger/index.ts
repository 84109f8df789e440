export { TriggerPage } from './TriggerPage';
