/** What a drag of one of the bench's own things carries: a sample of the shelf, or a pad. */
export const dragType = 'application/x-hexachord-samples';
export const padType = 'application/x-hexachord-pad';
