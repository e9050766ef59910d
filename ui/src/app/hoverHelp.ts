/** Every control says what it is when it is pointed at: what it is called for those who do not see it, where it has no words of its own. */
const controls =
  'button, input, select, [role="slider"], .ant-slider, .ant-select, .ant-input-number, .ant-segmented-item';

/** What a control is called. */
function nameOf(control: Element): string {
  const named = control.matches('[aria-label]') ? control : control.querySelector('[aria-label]');
  const name = named?.getAttribute('aria-label') ?? '';
  if (name) return name;
  const group = control.closest('[role="radiogroup"][aria-label]');
  return group ? `${group.getAttribute('aria-label')}: ${control.textContent}` : '';
}

function help(e: PointerEvent) {
  const at = e.target instanceof Element ? e.target : null;
  const control = at?.closest(controls);
  if (!at || !control) return;
  const whole =
    control.closest('.ant-slider, .ant-select, .ant-input-number, .ant-segmented-item') ?? control;
  const words = at.closest('[title]:not([title=""])');
  // a choice that repeats itself when it is pointed at says nothing
  const repeats =
    words !== null && whole.contains(words) && words.getAttribute('title') === words.textContent;
  // what was said here before is said anew: a control that stays may by now be another lane's
  const ours = words instanceof HTMLElement && words.dataset.said === words.title;
  if (words && !repeats && !ours && words.closest(controls)) return;
  const name = nameOf(whole);
  const to = repeats || ours ? words : whole;
  if (!name || !(to instanceof HTMLElement)) return;
  to.title = name;
  to.dataset.said = name;
}

export function helpWhatIsPointedAt(): () => void {
  document.addEventListener('pointerover', help);
  return () => document.removeEventListener('pointerover', help);
}
