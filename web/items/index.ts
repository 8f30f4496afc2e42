export { Items } from './items.tsx';
export { ItemPage } from './item-page.tsx';
export { NewItem } from './new-item.tsx';
export { PriceLists } from './price-lists.tsx';
export { ShelfLabels } from './shelf-labels.tsx';
export { ItemImport } from './item-import.tsx';
export { OwnFields } from './own-fields.tsx';
export { ItemsFrame } from './frame.tsx';
