export { workHandlers } from './routes.ts';
export { giveFile, keepPicture, nameOf, readPicture, takeFile } from './files.ts';
