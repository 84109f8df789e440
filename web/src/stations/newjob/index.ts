export { NewJobPage } from './NewJobPage';
