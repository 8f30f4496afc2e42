export { OwnSecret, PeoplePage } from './people-page.tsx';
