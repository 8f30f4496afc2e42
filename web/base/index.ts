export { read, send, Refused, Unreached } from './client.ts';
export { useRead, useSend, useChanges } from './queries.ts';
export { sound } from './sound.ts';
export { ScannerProvider, useScanner } from './scanner.tsx';
export { SidePanel } from './side-panel.tsx';
export { Plate, TallyBar, Button, Field, Empty, Trouble, Tag, ScanLine, ago, clock, type StandingName } from './parts.tsx';
