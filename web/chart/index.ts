import { lazy } from 'react';

export type { BarsOf } from './bars.tsx';
/** Bars of several parts. What draws them is loaded when a page has some. */
export const Bars = lazy(() => import('./bars.tsx').then((part) => ({ default: part.Bars })));
