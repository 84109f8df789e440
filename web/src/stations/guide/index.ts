export { GuidePage } from './GuidePage';
