// What the window knows, how it changes and what it sounds.
export * from './bench';
export * from './edits';
export * from './recordings';
export * from './sounding';
export * from './view';
