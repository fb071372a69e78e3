const SPARKS = 60;

/** About sixty values for a small line: the mean of what is known of each stretch, null where nothing is. */
export function sparkOf(values: readonly number[]): (number | null)[] {
  const each = Math.max(1, Math.ceil(values.length / SPARKS));
  return Array.from({ length: Math.ceil(values.length / each) }, (_, i) => {
    const known = values.slice(i * each, (i + 1) * each).filter(Number.isFinite);
    return known.length > 0 ? known.reduce((sum, value) => sum + value, 0) / known.length : null;
  });
}
