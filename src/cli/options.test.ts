import { describe, expect, it } from "vitest";
import { nearest, readOptions, readPort, UsageError } from "./options";

describe("options", () => {
  const options = { fresh: { type: "boolean" }, port: { type: "string" } } as const;
  it("are read in every form", () => {
    expect(readOptions(["--fresh", "--port", "4700"], options).values).toEqual({ fresh: true, port: "4700" });
    expect(readOptions(["--port=4700"], options).values).toEqual({ port: "4700" });
    expect(readOptions([], options).values).toEqual({});
  });
  it("that are unknown are refused with the nearest, or with all there are", () => {
    expect(() => readOptions(["--frsh"], options)).toThrow("unknown option --frsh; did you mean --fresh?");
    expect(() => readOptions(["--colour"], options)).toThrow("known: --fresh, --port");
    expect(() => readOptions(["--colour"], {})).toThrow("it has none");
  });
  it("without their value, or beside stray words, are refused", () => {
    expect(() => readOptions(["--port"], options)).toThrow(UsageError);
    expect(() => readOptions(["stray"], options)).toThrow('unexpected "stray"');
    expect(readOptions(["store"], {}, 1).positionals).toEqual(["store"]);
  });
  it("for ports take numbers that a program may use", () => {
    expect(readPort(undefined, 4600)).toBe(4600);
    expect(readPort("1024", 1)).toBe(1024);
    for (const bad of ["80", "65001", "4600.5", "many", ""])
      expect(() => readPort(bad, 1)).toThrow(UsageError);
  });
  it("are guessed within two slips, not more", () => {
    expect(nearest("demmo", ["demo", "start"])).toBe("demo");
    expect(nearest("stat", ["start", "status"])).toBe("start");
    expect(nearest("xyzzy", ["demo", "start"])).toBeNull();
    expect(nearest("demo", [])).toBeNull();
  });
});
