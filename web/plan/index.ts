export { Plan } from './plan.tsx';
