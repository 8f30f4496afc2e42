export { backUp, BackupFault, bringBack, figuresOf, readHead, type Figures, type Head } from './backup.ts';
