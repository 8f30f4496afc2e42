export { Places } from './places.tsx';
export { BinPage } from './bin-page.tsx';
export { BinBuilder } from './builder.tsx';
export { BinImport } from './bin-import.tsx';
export { SitePage } from './site-page.tsx';
export { PlacesFrame, useMySite } from './frame.tsx';
