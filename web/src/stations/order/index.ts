export { OrderPage } from './OrderPage';
