import { runWorker } from "./jobs/worker";

const stop = new AbortController();
for (const name of ["SIGINT", "SIGTERM"] as const) process.on(name, () => stop.abort());
await runWorker(stop.signal);
