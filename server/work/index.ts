export { workHandlers } from './routes.ts';
export { giveFile, nameOf, readPicture, takeFile } from './files.ts';
