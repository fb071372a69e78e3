/** Drawings that wait for their turn, by whom they are for: a newer one takes the place of one that was not begun. */
const waiting = new Map<object, () => void>();
let asked = false;

/** What may be drawn in one frame; beyond, the next frame goes on, so that the page answers in between. */
const BUDGET_MS = 24;

/**
 * Draws in one of the next frames, after what was asked for before: twenty charts at once would hold up the page for a
 * second.
 * @returns takes the drawing back, if it was not begun
 */
export function drawSoon(owner: object, draw: () => void): () => void {
  waiting.set(owner, draw);
  if (!asked) {
    asked = true;
    schedule();
  }
  return () => {
    if (waiting.get(owner) === draw) waiting.delete(owner);
  };
}

function schedule() {
  // A hidden tab has no frames; there is nothing to draw for either.
  requestAnimationFrame(() => setTimeout(work));
}

function work() {
  const begun = performance.now();
  for (const [owner, draw] of waiting) {
    waiting.delete(owner);
    draw();
    if (performance.now() - begun > BUDGET_MS) break;
  }
  asked = waiting.size > 0;
  if (asked) schedule();
}
