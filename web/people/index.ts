export { Door } from './door.tsx';
export { OwnSecret, PeoplePage } from './people-page.tsx';
