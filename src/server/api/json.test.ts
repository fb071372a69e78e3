import fc from "fast-check";
import { expect, it } from "vitest";
import { toJson } from "./json";

it("writes what JSON.stringify writes, for everything that JSON can hold", () => {
  fc.assert(
    fc.property(fc.jsonValue(), (value) => {
      expect(JSON.parse(toJson(value))).toEqual(JSON.parse(JSON.stringify(value)));
    }),
  );
  expect(toJson({ a: undefined, b: [undefined, 1], c: new Date(0), d: null })).toBe(
    '{"b":[null,1],"c":"1970-01-01T00:00:00.000Z","d":null}',
  );
});

it("writes typed arrays number by number, and says what is no number in words", () => {
  const values = Float64Array.of(
    1.5,
    -0,
    Number.NaN,
    Number.POSITIVE_INFINITY,
    Number.NEGATIVE_INFINITY,
    1e21,
    5e-324,
  );
  expect(toJson({ values })).toBe('{"values":[1.5,0,"NaN","+Inf","-Inf",1e+21,5e-324]}');
  fc.assert(
    fc.property(fc.float64Array({ noNaN: true, noDefaultInfinity: true }), (some) => {
      expect(JSON.parse(toJson(some))).toEqual(Array.from(some, (one) => (one === 0 ? 0 : one)));
    }),
  );
});
