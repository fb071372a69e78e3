import { expect, it } from "vitest";
import { costOf } from "./cost";

it("a hundred series every ten seconds are 864,000 samples a day", () => {
  expect(costOf(100, 10_000, 1.5)).toEqual({ samplesADay: 864_000, bytesADay: 1_296_000 });
  expect(costOf(1, 86_400_000, null)).toEqual({ samplesADay: 1, bytesADay: 2 });
});
