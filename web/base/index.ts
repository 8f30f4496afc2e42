export { read, sayWhoIsHere, send, Refused, Unreached } from './client.ts';
export { useRead, useReadPages, useSend, useChanges } from './queries.ts';
export { useMayReadCosts, useMe, WhoIsHere } from './me.ts';
export { sound } from './sound.ts';
export { ScannerProvider, separatorKey, setSeparatorKey, useKeyed, useNextKey, useSayScan, useScanner, type Scan } from './scanner.tsx';
export { useFilters } from './filters.ts';
export { atSite, forgetSite, settleAt, siteToday, switchSite, takeAskedSite } from './site.ts';
export { Unsaved, UnsavedGuard } from './unsaved.tsx';
export { useSharedForm } from './clashes.tsx';
export { ago, counted, sayDay, sayMoment, sayNumber } from './say.ts';
export { uploadFile } from './upload.ts';
export { ItemName, ItemPicture } from './item-picture.tsx';
export { SearchBox } from './parts.tsx';
export { SidePanel } from './side-panel.tsx';
export {
  Plate,
  Progress,
  TallyBar,
  Button,
  ButtonLink,
  Field,
  Select,
  Tick,
  SubRow,
  Empty,
  Trouble,
  Tag,
  ScanLine,
  type StandingName,
} from './parts.tsx';
