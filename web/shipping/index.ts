export { Bench } from './bench.tsx';
