/** What is worked on in a face: the first of these that is there. */
const stages = [
  '[data-id="stage"]',
  '[data-id="roll"]',
  '.songrow [tabindex="0"]',
  '.lanesrow button, .lanesrow input',
  '.bench [tabindex="0"]',
];

/** Leads the keys to what is worked on. */
export function toStage() {
  stages
    .map((at) => document.querySelector<HTMLElement>(at))
    .find((el) => el)
    ?.focus();
}

/** The same, soon, if what had the focus is gone. */
export function toStageIfLost() {
  setTimeout(() => {
    if (document.activeElement === document.body) toStage();
  }, 60);
}
