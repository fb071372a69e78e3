/**
 * Sum with the rounding error carried along, so that a mean of a thousand values near ten million keeps all its
 * digits. A. Neumaier, "Rundungsfehleranalyse einiger Verfahren zur Summation endlicher Summen", ZAMM 54 (1974).
 */
export function compensatedSum(values: Float64Array): number {
  let sum = 0;
  let lost = 0;
  for (const value of values) {
    const next = sum + value;
    lost += Math.abs(sum) >= Math.abs(value) ? sum - next + value : value - next + sum;
    sum = next;
  }
  // With an infinity among the values the correction is NaN; the plain sum is then the right answer.
  return Number.isFinite(sum) ? sum + lost : sum;
}
