/** Appends without pause and seals again and again, until it is killed. Says which samples were acknowledged. */
import { append } from "../../src/server/store/append";
import { sealRecent } from "../../src/server/store/seal";

const SERIES = 40;
const firstId = Number(process.argv[2]);
let time = Number(process.argv[3]);

async function sealForEver() {
  for (;;) await sealRecent(Date.now() + 7_200_000);
}
void sealForEver();
for (;;) {
  const batch = Array.from({ length: SERIES }, (_, i) => ({
    seriesId: firstId + i,
    times: Float64Array.of(time, time + 60_000),
    values: Float64Array.of(time, time + 60_000),
  }));
  await append(batch);
  process.stdout.write(`ok ${time}\n`);
  time += 120_000;
}
