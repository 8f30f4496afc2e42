export { Items } from './items.tsx';
export { ItemPage } from './item-page.tsx';
export { NewItem } from './new-item.tsx';
