export { ROLES, isAllowed, type Role } from './rights.ts';
export { peopleSentence, type PeopleError } from './errors.ts';
