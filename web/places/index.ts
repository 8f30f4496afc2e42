export { Places } from './places.tsx';
export { BinPage } from './bin-page.tsx';
