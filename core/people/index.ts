export { ROLES, isAllowed, mayReadCosts, type Role } from './rights.ts';
export { decideStaff, isFairPassword, isFairPin, type Staff, type StaffChange } from './staff.ts';
export { peopleSentence, type PeopleError } from './errors.ts';
