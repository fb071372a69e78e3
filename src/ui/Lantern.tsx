import type { SystemState } from "@/server/services/systems";

const WORDS: Record<SystemState, string> = {
  dark: "dark: no data",
  calm: "calm",
  week: "act this week",
  today: "act today",
  now: "act now",
};

/** Three heights of the flame; the tallest also throws rays. Dark is a dashed lamp without a flame. */
const FLAME: Partial<Record<SystemState, string>> = {
  calm: "M12 17.2c-.9 0-1.5-.6-1.5-1.4 0-.9.9-1.3 1.5-2.3.6 1 1.5 1.4 1.5 2.3 0 .8-.6 1.4-1.5 1.4z",
  week: "M12 17.4c-1.4 0-2.3-.9-2.3-2.2 0-1.6 1.5-2.3 2.3-4.2.8 1.9 2.3 2.6 2.3 4.2 0 1.3-.9 2.2-2.3 2.2z",
  today: "M12 17.4c-1.4 0-2.3-.9-2.3-2.2 0-1.6 1.5-2.3 2.3-4.2.8 1.9 2.3 2.6 2.3 4.2 0 1.3-.9 2.2-2.3 2.2z",
  now: "M12 17.6c-1.9 0-3-1.2-3-2.9 0-2.4 2.2-3.4 3-6.7.8 3.3 3 4.3 3 6.7 0 1.7-1.1 2.9-3 2.9z",
};

/** The health of a system or group, readable by shape alone. */
export function Lantern({ state, size = 20 }: { state: SystemState; size?: number }) {
  const colour = `var(--chakra-colors-${state})`;
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 24 24"
      fill="none"
      stroke={colour}
      strokeWidth="1.6"
      strokeLinejoin="round"
      strokeLinecap="round"
      style={{ flex: "none" }}
      role="img"
      aria-label={WORDS[state]}
      data-state={state}
    >
      <title>{WORDS[state]}</title>
      <path
        d="M9.2 5.2C9.4 3.4 10.5 2.6 12 2.6s2.6.8 2.8 2.6"
        strokeDasharray={state === "dark" ? "1.6 2" : undefined}
      />
      <path
        d="M8.6 5.6h6.8l1.7 13.2H6.9z"
        strokeDasharray={state === "dark" ? "1.8 2.2" : undefined}
        fill={state === "dark" || state === "calm" ? "none" : `var(--chakra-colors-${state}bg)`}
      />
      <path d="M6 21h12" strokeWidth="2.2" strokeDasharray={state === "dark" ? "1.8 2.6" : undefined} />
      {FLAME[state] && <path d={FLAME[state]} fill={colour} stroke="none" />}
      {state === "now" && (
        <path
          d="M3.2 8.4 1 7.6M3 12H.8M3.2 15.6 1 16.4M20.8 8.4l2.2-.8M21 12h2.2M20.8 15.6l2.2.8"
          strokeWidth="1.4"
        />
      )}
    </svg>
  );
}
