const SELECTOR = "[data-walk]";

/**
 * Arrow keys over things that lie in rows: left and right go in the order of reading, up and down to the nearest thing
 * in the row above or below. Put on what holds them; each carries `data-walk`.
 */
export function walkWithArrows(event: React.KeyboardEvent<HTMLElement>) {
  const all = [...event.currentTarget.querySelectorAll<HTMLElement>(SELECTOR)];
  const own = (event.target as HTMLElement).closest<HTMLElement>(SELECTOR);
  const at = own ? all.indexOf(own) : -1;
  if (at === -1) return;
  const next = nextOf(
    event.key,
    at,
    all.map((one) => one.getBoundingClientRect()),
  );
  if (next === null) return;
  event.preventDefault();
  all[next].focus();
}

interface Box {
  top: number;
  left: number;
  width: number;
}

/** Index of the thing that a key leads to from `at`; null for keys that lead nowhere. */
export function nextOf(key: string, at: number, boxes: readonly Box[]): number | null {
  if (key === "ArrowRight") return Math.min(boxes.length - 1, at + 1);
  if (key === "ArrowLeft") return Math.max(0, at - 1);
  if (key === "Home") return 0;
  if (key === "End") return boxes.length - 1;
  if (key !== "ArrowDown" && key !== "ArrowUp") return null;
  const own = boxes[at];
  const middle = (box: Box) => box.left + box.width / 2;
  const beyond = boxes.map((box) => (key === "ArrowDown" ? box.top - own.top : own.top - box.top));
  const row = Math.min(...beyond.filter((distance) => distance > 2));
  if (!Number.isFinite(row)) return at;
  let best = at;
  boxes.forEach((box, i) => {
    if (beyond[i] <= 2 || beyond[i] > row + 2) return;
    if (best === at || Math.abs(middle(box) - middle(own)) < Math.abs(middle(boxes[best]) - middle(own)))
      best = i;
  });
  return best;
}
