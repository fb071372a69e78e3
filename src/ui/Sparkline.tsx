/** A line without axes, for beside a figure. Holes stay holes. */
export function Sparkline({
  values,
  width = 74,
  height = 22,
}: {
  values: (number | null)[];
  width?: number;
  height?: number;
}) {
  const known = values.filter((value): value is number => value !== null);
  if (known.length < 2) return null;
  const low = Math.min(...known);
  const span = Math.max(...known) - low || 1;
  const step = width / (values.length - 1);
  let path = "";
  let pen = "M";
  values.forEach((value, i) => {
    if (value === null) pen = "M";
    else {
      path += `${pen}${(i * step).toFixed(1)} ${(height - 2 - ((value - low) / span) * (height - 4)).toFixed(1)}`;
      pen = "L";
    }
  });
  return (
    <svg width={width} height={height} aria-hidden="true" style={{ flex: "none" }}>
      <path
        d={path}
        fill="none"
        stroke="var(--chakra-colors-spruce)"
        strokeWidth="1.4"
        strokeLinejoin="round"
      />
    </svg>
  );
}
