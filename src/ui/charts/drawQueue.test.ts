import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { drawSoon } from "./drawQueue";

let frames: (() => void)[] = [];
let clock = 0;

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["setTimeout"] });
  frames = [];
  clock = 0;
  vi.stubGlobal("requestAnimationFrame", (frame: () => void) => frames.push(frame));
  vi.spyOn(performance, "now").mockImplementation(() => clock);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

function nextFrame() {
  for (const frame of frames.splice(0)) frame();
  vi.runAllTimers();
}

it("draws in the order asked, as much as a frame holds, and asks for a frame only while something waits", () => {
  const drawn: string[] = [];
  const chart = (name: string, takes: number) =>
    drawSoon({ name }, () => {
      drawn.push(name);
      clock += takes;
    });
  chart("a", 10);
  chart("b", 20);
  chart("c", 5);
  expect(frames.length).toBe(1);
  nextFrame();
  expect(drawn).toEqual(["a", "b"]);
  nextFrame();
  expect(drawn).toEqual(["a", "b", "c"]);
  expect(frames.length).toBe(0);
  chart("d", 1);
  expect(frames.length).toBe(1);
  nextFrame();
  expect(drawn.at(-1)).toBe("d");
});

it("draws only the newest for each owner, and nothing that was taken back", () => {
  const drawn: string[] = [];
  const [one, other] = [{}, {}];
  const takeBackOld = drawSoon(one, () => drawn.push("old"));
  drawSoon(one, () => drawn.push("new"));
  const takeBack = drawSoon(other, () => drawn.push("gone"));
  // What was replaced cannot take its successor back.
  takeBackOld();
  takeBack();
  nextFrame();
  expect(drawn).toEqual(["new"]);
});
