import { lazily } from './lazily';

/** A number that takes effect on Enter or when the field is left, once; Escape leaves it as it was. */
export const NumberField = lazily(async () => (await import('./NumberInput')).NumberInput);
