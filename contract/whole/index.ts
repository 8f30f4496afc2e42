/** The routes with their schemas, for a form that judges what was typed before it is sent. What else imports the contract in the web gets
 *  it without them: they weigh more than all that is loaded at first otherwise. */
export { ROUTES as WHOLE_ROUTES } from '../index.ts';
