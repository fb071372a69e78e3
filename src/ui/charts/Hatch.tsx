import { useId } from "react";

/** What lies out of reach above a ceiling, inside an SVG. */
export function Hatch(props: { x: number; y: number; width: number; height: number }) {
  const id = useId();
  return (
    <>
      <pattern id={id} width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="7" stroke="var(--chakra-colors-soft)" strokeWidth="1" opacity="0.45" />
      </pattern>
      <rect {...props} fill={`url(#${id})`} />
    </>
  );
}
