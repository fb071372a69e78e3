/** True where the demo's simulated world runs beside Barn Lamp. */
export function isDemo(): boolean {
  return Boolean(process.env.BARNLAMP_DEMO_CONTROL);
}

/** Calls the stand-ins' control; null when this is no demo or they do not answer. */
export async function callStandIns(method: string, path: string, body?: string) {
  const base = process.env.BARNLAMP_DEMO_CONTROL;
  if (!base) return null;
  try {
    const response = await fetch(`${base}/${path}`, { method, body, signal: AbortSignal.timeout(5000) });
    return { status: response.status, body: (await response.json()) as unknown };
  } catch {
    return null;
  }
}
