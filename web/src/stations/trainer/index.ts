export { SeasonPage } from './SeasonPage';
export { TrainerPage } from './TrainerPage';
