export { Counts } from './counts.tsx';
export { CountPage } from './count-page.tsx';
