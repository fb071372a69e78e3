import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { METRIC_TYPES, type MetricFamily, parseOpenMetrics, writeOpenMetrics } from "./openmetrics";

const lines = (...text: string[]) => `${text.join("\n")}\n`;

// Source: OpenMetrics specification 1.0.0, "Text format" and its examples, from memory of the published text.
describe("the specification's examples", () => {
  it("Overall Structure: a counter family with unit, help and times", () => {
    const { families, problems } = parseOpenMetrics(
      lines(
        "# TYPE acme_http_router_request_seconds summary",
        "# UNIT acme_http_router_request_seconds seconds",
        "# HELP acme_http_router_request_seconds Latency though all of ACME's HTTP request router.",
        'acme_http_router_request_seconds_sum{path="/api/v1",method="GET"} 9036.32',
        'acme_http_router_request_seconds_count{path="/api/v1",method="GET"} 807283.0',
        'acme_http_router_request_seconds_created{path="/api/v1",method="GET"} 1605281325.0',
        'acme_http_router_request_seconds_sum{path="/api/v2",method="POST"} 479.3',
        'acme_http_router_request_seconds_count{path="/api/v2",method="POST"} 34.0',
        'acme_http_router_request_seconds_created{path="/api/v2",method="POST"} 1605281325.0',
        "# TYPE go_goroutines gauge",
        "# HELP go_goroutines Number of goroutines that currently exist.",
        "go_goroutines 69",
        "# TYPE process_cpu_seconds counter",
        "# UNIT process_cpu_seconds seconds",
        "# HELP process_cpu_seconds Total user and system CPU time spent in seconds.",
        "process_cpu_seconds_total 4.20072246e+06",
        "# EOF",
      ),
    );
    expect(problems).toEqual([]);
    expect(families.map(({ name, type, unit }) => [name, type, unit])).toEqual([
      ["acme_http_router_request_seconds", "summary", "seconds"],
      ["go_goroutines", "gauge", ""],
      ["process_cpu_seconds", "counter", "seconds"],
    ]);
    expect(families[0].samples[3]).toEqual({
      name: "acme_http_router_request_seconds_sum",
      labels: { path: "/api/v2", method: "POST" },
      value: 479.3,
      time: null,
    });
    expect(families[2].samples[0].value).toBe(4200722.46);
  });
  it("Escaping: backslash, quote and line feed in labels and help", () => {
    const { families } = parseOpenMetrics(
      lines(
        "# TYPE foo gauge",
        String.raw`# HELP foo A \\ and a \n and a \" in help`,
        String.raw`foo{bar="b\"a\\z\n"} 1`,
        "# EOF",
      ),
    );
    expect(families[0].help).toBe('A \\ and a \n and a " in help');
    expect(families[0].samples[0].labels).toEqual({ bar: 'b"a\\z\n' });
  });
  it("Numbers: integers, floats, exponents, infinities and NaN in any case", () => {
    const { families, problems } = parseOpenMetrics(
      lines(
        "a 23",
        "b 0042",
        "c 1341298465647914",
        "d 03.123421",
        "e 1.89e-7",
        "f +Inf",
        "g -Inf",
        "h NaN",
        "i nan",
        "j -infinity",
        "k 1.",
        "l .5",
      ),
    );
    expect(problems).toEqual([]);
    expect(families.map((family) => family.samples[0].value)).toEqual([
      23,
      42,
      1341298465647914,
      3.123421,
      1.89e-7,
      Infinity,
      -Infinity,
      Number.NaN,
      Number.NaN,
      -Infinity,
      1,
      0.5,
    ]);
  });
  it("Timestamps: seconds since the epoch, with fractions", () => {
    const { families } = parseOpenMetrics(
      lines("# TYPE foo gauge", 'foo{a="bb"} 0 123', 'foo{a="bb"} 0 456.5', 'foo{a="cc"} 0 -1.5'),
    );
    expect(families[0].samples.map((sample) => sample.time)).toEqual([123_000, 456_500, -1500]);
  });
  it("Info and StateSet", () => {
    const { families, problems } = parseOpenMetrics(
      lines(
        "# TYPE foo info",
        'foo_info{entity="controller",name="pretty name",version="8.2.7"} 1.0',
        "# TYPE bar stateset",
        'bar{entity="controller",bar="a"} 1.0',
        'bar{entity="controller",bar="bb"} 0.0',
        "# EOF",
      ),
    );
    expect(problems).toEqual([]);
    expect(families[1].samples).toHaveLength(2);
  });
  it("Histogram with exemplars, which are passed over", () => {
    const { families, problems } = parseOpenMetrics(
      lines(
        "# TYPE foo histogram",
        'foo_bucket{le="0.01"} 0',
        'foo_bucket{le="0.1"} 8 # {} 0.054',
        'foo_bucket{le="1"} 11 # {trace_id="KOO5S4vxi0o"} 0.67',
        'foo_bucket{le="10"} 17 # {trace_id="oHg5SJYRHA0"} 9.8 1520879607.789',
        'foo_bucket{le="+Inf"} 17',
        "foo_count 17",
        "foo_sum 324789.3",
        "foo_created 1520430000.123",
        "# EOF",
      ),
    );
    expect(problems).toEqual([]);
    expect(families[0].samples.map((sample) => sample.value)).toEqual([
      0, 8, 11, 17, 17, 17, 324789.3, 1520430000.123,
    ]);
    expect(families[0].samples.every((sample) => sample.time === null)).toBe(true);
  });
  it("GaugeHistogram and Unknown", () => {
    const { families, problems } = parseOpenMetrics(
      lines(
        "# TYPE foo gaugehistogram",
        'foo_bucket{le="0.01"} 20.0',
        'foo_bucket{le="+Inf"} 42.0',
        "foo_gcount 42.0",
        "foo_gsum 3289.3",
        "# TYPE bar unknown",
        "bar 42.23",
        "# EOF",
      ),
    );
    expect(problems).toEqual([]);
    expect(families.map((family) => family.samples.length)).toEqual([4, 1]);
  });
});

/** Line numbers of the problems in a text. */
const faultyLines = (...text: string[]) =>
  parseOpenMetrics(lines(...text)).problems.map((problem) => problem.line);

describe("the specification's rules", () => {
  it("a counter is neither negative nor NaN", () => {
    expect(faultyLines("# TYPE a counter", "a_total -1", "a_total NaN", "a_total 2")).toEqual([2, 3]);
  });
  it("buckets need le, and the last one is +Inf", () => {
    expect(
      faultyLines("# TYPE a histogram", "a_bucket 1", 'a_bucket{le="x"} 1', 'a_bucket{le="1"} 1'),
    ).toEqual([2, 3, 4]);
  });
  it("quantiles lie between 0 and 1", () => {
    expect(faultyLines("# TYPE a summary", 'a{quantile="1.5"} 1', 'a{quantile="0.5"} 1', "a 1")).toEqual([
      2, 4,
    ]);
  });
  it("info is 1, states are 0 or 1 and named by their family", () => {
    expect(
      faultyLines("# TYPE a info", "a_info 2", "# TYPE b stateset", 'b{b="x"} 0.5', 'b{c="x"} 1'),
    ).toEqual([2, 4, 5]);
  });
  it("the unit ends the name, and stands before the samples once", () => {
    expect(
      faultyLines(
        "# UNIT a_bytes seconds",
        "b 1",
        "# TYPE b gauge",
        "# TYPE c gauge",
        "# TYPE c gauge",
        "c 1",
      ),
    ).toEqual([1, 3, 5]);
  });
  it("families are not interleaved, samples not repeated, nothing follows EOF", () => {
    expect(faultyLines("# TYPE a gauge", "a 1", "# TYPE b gauge", "b 1", 'a{x="1"} 1')).toEqual([5]);
    expect(faultyLines("a 1", "a 2")).toEqual([2]);
    expect(faultyLines("a 1", "# EOF", "b 1")).toEqual([3]);
  });
});

describe("leniency", () => {
  it("takes what older endpoints write", () => {
    const { families, problems } = parseOpenMetrics(
      lines(
        "# A comment of any kind",
        "",
        "# HELP http_requests_total The total number of HTTP requests.",
        "# TYPE http_requests_total counter",
        'http_requests_total{method="post",code="200",} 1027 1395066363000',
        "# TYPE plain counter",
        "plain 5",
        "# TYPE load untyped",
        "load   0.5\r",
        String.raw`msdos{path="C:\DIR"} 1`,
      ),
    );
    expect(problems).toEqual([]);
    expect(families.map((family) => [family.name, family.type])).toEqual([
      ["http_requests_total", "counter"],
      ["plain", "counter"],
      ["load", "unknown"],
      ["msdos", "unknown"],
    ]);
    expect(families[0].samples[0].time).toBe(1395066363000);
    expect(families[3].samples[0].labels.path).toBe("C:\\DIR");
  });
  it("keeps the good lines around broken ones and names each broken line", () => {
    const { families, problems } = parseOpenMetrics(
      lines(
        "good 1",
        "bad",
        'open{a="1 2',
        "{} 4",
        'twice{a="1",a="2"} 1',
        "x{a=b} 1",
        "n 1x",
        "also_good 2 3 4",
        "fine 7",
      ),
    );
    expect(families.map((family) => family.name)).toEqual(["good", "fine"]);
    expect(problems.map((problem) => problem.line)).toEqual([2, 3, 4, 5, 6, 7, 8]);
    for (const { message } of problems) expect(message).toMatch(/\w{3}/);
  });
  it("stops at its limits and says so", () => {
    const many = Array.from({ length: 50 }, (_, i) => `m${i} 1`);
    const { families, problems } = parseOpenMetrics(lines(...many), { maxSamples: 10 });
    expect(families).toHaveLength(10);
    expect(problems).toEqual([{ line: 11, message: "more than 10 samples; the rest was not read" }]);
    const broken = parseOpenMetrics(lines(...Array.from({ length: 50 }, () => "?")), { maxProblems: 3 });
    expect(broken.problems).toHaveLength(4);
  });
  it("never throws, whatever it is given", () => {
    const pieces = fc.constantFrom(
      "a",
      "{",
      "}",
      '"',
      "\\",
      ",",
      "=",
      " ",
      "\n",
      "# TYPE ",
      "1",
      "NaN",
      "# ",
      "le",
      "é",
      "\u0000",
    );
    fc.assert(
      fc.property(fc.array(pieces, { maxLength: 60 }), (text) => void parseOpenMetrics(text.join(""))),
      { numRuns: 500 },
    );
    fc.assert(fc.property(fc.string(), (text) => void parseOpenMetrics(text)));
  });
});

describe("writing", () => {
  it("what was written is read back whole", () => {
    const name = fc.stringMatching(/^[a-z_][a-z0-9_]{0,8}$/);
    const family = fc.record({
      name: name.map((text) => `f_${text}_x`),
      type: fc.constantFrom(...METRIC_TYPES.filter((type) => type === "gauge" || type === "unknown")),
      unit: fc.constant(""),
      help: fc.string(),
      samples: fc.uniqueArray(
        fc.record({
          labels: fc.dictionary(name, fc.string(), { maxKeys: 3, noNullPrototype: true }),
          value: fc.double(),
          time: fc.option(fc.integer({ min: -1e10, max: 9e10 })),
        }),
        {
          minLength: 1,
          maxLength: 4,
          selector: (sample) => JSON.stringify(Object.entries(sample.labels).sort()),
        },
      ),
    });
    fc.assert(
      fc.property(fc.uniqueArray(family, { selector: (f) => f.name, maxLength: 4 }), (list) => {
        const families: MetricFamily[] = list.map((f) => ({
          ...f,
          samples: f.samples.map((sample) => ({ ...sample, name: f.name })),
        }));
        const { families: read, problems } = parseOpenMetrics(writeOpenMetrics(families));
        expect(problems).toEqual([]);
        expect(read).toEqual(families);
      }),
    );
  });
});
