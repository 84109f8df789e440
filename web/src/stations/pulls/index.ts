export { PullsPage } from './PullsPage';
