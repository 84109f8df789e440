export { LivePanel } from './LivePanel';
export { LiveStretch } from './LiveStretch';
export { RunInClock } from './RunInClock';
export { useLive, type Live } from './useLive';
export { useCommand } from './useCommand';
export { WatchList } from './WatchList';
