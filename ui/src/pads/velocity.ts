/** Velocity of a strike on a hexagon: 127 in the middle, falling to 24 at its edge; a pen strikes as hard as it is pressed; Shift always
 * strikes full. */
export function velocityAt(
  e: { clientX: number; clientY: number; shiftKey: boolean; pointerType?: string; pressure?: number },
  box: DOMRect,
): number {
  if (e.shiftKey) return 127;
  if (e.pointerType === 'pen' && e.pressure) return Math.max(1, Math.round(127 * e.pressure));
  const dx = (e.clientX - box.left - box.width / 2) / (box.width / 2);
  const dy = (e.clientY - box.top - box.height / 2) / (box.height / 2);
  const far = Math.min(1, Math.hypot(dx, dy));
  return Math.round(127 - 103 * far);
}
