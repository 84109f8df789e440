export { PullsPage } from './PullsPage';
export { ResultPage } from './ResultPage';
