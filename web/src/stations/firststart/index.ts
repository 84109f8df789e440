export { FirstStartPage } from './FirstStartPage';
