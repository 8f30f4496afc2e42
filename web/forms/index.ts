export { ChoiceField, useChoice, usePicked } from './choice-field.tsx';
export { ticked, useCommandForm } from './command-form.ts';
export { useSharedForm } from './shared-form.tsx';
export { DateField } from './date-field.tsx';
export { Select, type Option } from './select.tsx';
export { SuggestField } from './suggest-field.tsx';
export { useNextField } from './next-field.ts';
