export { InjectorsPage } from './InjectorsPage';
