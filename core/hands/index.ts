export { happenedAt, jobOf, type Does, type DoesKind, type Unreadable } from './acts.ts';
export { handsSentence, type HandsError } from './errors.ts';
export { doesWords, type DoesNames } from './words.ts';
