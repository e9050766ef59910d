// Whether the person is just doing something that must not be moved away under the hand.

let down = false;

window.addEventListener('pointerdown', () => (down = true), true);
for (const end of ['pointerup', 'pointercancel'] as const)
  window.addEventListener(end, () => (down = false), true);

/** A pointer is held down, or text is typed. */
export function handsBusy(): boolean {
  const t = document.activeElement;
  return (
    down ||
    t instanceof HTMLTextAreaElement ||
    (t instanceof HTMLInputElement && !/^(radio|checkbox|range|button)$/.test(t.type))
  );
}
