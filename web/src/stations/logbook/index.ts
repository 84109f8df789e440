export { LogbookPage } from './LogbookPage';
