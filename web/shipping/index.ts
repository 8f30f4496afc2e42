export { Bench } from './bench.tsx';
export { Counter } from './counter.tsx';
