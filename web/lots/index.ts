export { Lots } from './lots.tsx';
export { SerialPage } from './serial-page.tsx';
