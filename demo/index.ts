export { loadDemo } from './load-demo.ts';
export { COMPANY } from './catalogue.ts';
