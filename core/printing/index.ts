export {
  attribute,
  GROUPS,
  groupsOf,
  JOB_STATES,
  numberOf,
  OPERATIONS,
  PRINTER_STATES,
  readIpp,
  STATUS,
  valuesOf,
  writeIpp,
  type IppAttribute,
  type IppGroup,
  type IppMessage,
} from './ipp.ts';
export { RASTER_TYPE, rowBytes, writeRaster, type Bitmap } from './raster.ts';
export { cameOut, lengthOf, nextRun, type Part } from './run.ts';
export { readAnswer, runsOf, whyItStands, type RunState } from './reading.ts';
export { printingSentence, type PrintingError } from './errors.ts';
export { printerUrl } from './address.ts';
