/** Appends one sample after another and prints `ok TIME` for each that was acknowledged, `no` for each refusal. */
import { migrateDatabase } from "../../src/server/db/migrate";
import { append } from "../../src/server/store/append";

await migrateDatabase();
for (let time = Date.now(); ; time++) {
  try {
    await append([{ seriesId: 77, times: Float64Array.of(time), values: Float64Array.of(time) }]);
    process.stdout.write(`ok ${time}\n`);
  } catch {
    process.stdout.write("no\n");
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  await new Promise((resolve) => setTimeout(resolve, 5));
}
