export { LivePage } from './LivePage';
