export { HotIdlePage } from './HotIdlePage';
