export { HandoverPage } from './HandoverPage';
