const NAME_START = /[a-zA-Z_:]/;
const NAME_CHAR = /[a-zA-Z0-9_:]/;
const LABEL_START = /[a-zA-Z_]/;
const LABEL_CHAR = /[a-zA-Z0-9_]/;
const REAL = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i;
const INFINITE = /^([+-]?)inf(inity)?$/i;

/**
 * Walks one sample line of the OpenMetrics text format from left to right (the grammar in the specification's
 * "ABNF" section). Each method takes one piece or throws a SyntaxError that says in plain words what is wrong.
 */
export class LineReader {
  private position = 0;

  constructor(private readonly text: string) {}

  atEnd(): boolean {
    return this.position >= this.text.length;
  }

  atBrace(): boolean {
    return this.text[this.position] === "{";
  }

  atHash(): boolean {
    return this.text[this.position] === "#";
  }

  rest(): string {
    return this.text.slice(this.position);
  }

  metricName(): string {
    return this.word(NAME_START, NAME_CHAR, "a metric name");
  }

  /** Spaces or tabs, at least one; `what` is said to be missing behind them when the line ends here. */
  blanks(what: string) {
    if (this.atEnd()) throw new SyntaxError(`${what} is missing`);
    if (!this.tryBlanks()) throw new SyntaxError(`a space is missing before "${this.clip()}"`);
    if (this.atEnd()) throw new SyntaxError(`${what} is missing`);
  }

  tryBlanks(): boolean {
    const start = this.position;
    while (this.text[this.position] === " " || this.text[this.position] === "\t") this.position++;
    return this.position > start;
  }

  /** `{name="value",…}`; a comma before the closing brace is let pass, as older endpoints write it. */
  labels(): Record<string, string> {
    const labels: Record<string, string> = {};
    this.position++;
    for (;;) {
      this.tryBlanks();
      if (this.text[this.position] === "}") break;
      const name = this.word(LABEL_START, LABEL_CHAR, "a label name");
      this.tryBlanks();
      this.expect("=", `behind the label name ${name}`);
      this.tryBlanks();
      const value = this.quoted(name);
      if (Object.hasOwn(labels, name)) throw new SyntaxError(`the label ${name} stands here twice`);
      labels[name] = value;
      this.tryBlanks();
      if (this.text[this.position] === ",") this.position++;
      else if (this.text[this.position] !== "}")
        throw new SyntaxError(
          this.atEnd() ? "the labels are not closed by }" : `, or } is missing before "${this.clip()}"`,
        );
    }
    this.position++;
    return labels;
  }

  number(what: string): number {
    const start = this.position;
    while (!this.atEnd() && !" \t".includes(this.text[this.position])) this.position++;
    const text = this.text.slice(start, this.position);
    if (REAL.test(text)) return Number(text);
    if (/^nan$/i.test(text)) return Number.NaN;
    const infinite = INFINITE.exec(text);
    if (infinite) return infinite[1] === "-" ? Number.NEGATIVE_INFINITY : Number.POSITIVE_INFINITY;
    throw new SyntaxError(`"${text.length > 60 ? `${text.slice(0, 60)}…` : text}" is not a ${what}`);
  }

  exemplar() {
    this.position++;
    this.blanks("the exemplar's labels");
    if (!this.atBrace()) throw new SyntaxError("an exemplar starts with its labels");
    const labels = this.labels();
    let length = 0;
    for (const [name, value] of Object.entries(labels)) length += [...name].length + [...value].length;
    if (length > 128) throw new SyntaxError("the labels of an exemplar hold at most 128 characters");
    this.blanks("the exemplar's value");
    this.number("value");
    if (this.tryBlanks() && !this.atEnd()) this.number("time");
    this.tryBlanks();
  }

  private word(start: RegExp, follow: RegExp, what: string): string {
    const from = this.position;
    if (this.atEnd() || !start.test(this.text[from]))
      throw new SyntaxError(`"${this.clip()}" is not ${what}`);
    this.position++;
    while (!this.atEnd() && follow.test(this.text[this.position])) this.position++;
    return this.text.slice(from, this.position);
  }

  private quoted(label: string): string {
    this.expect('"', `before the value of ${label}`);
    let value = "";
    for (;;) {
      if (this.atEnd()) throw new SyntaxError(`the value of ${label} is not closed by a quote`);
      const character = this.text[this.position++];
      if (character === '"') return value;
      if (character !== "\\") {
        value += character;
        continue;
      }
      const escaped = this.text[this.position++];
      if (escaped === "n") value += "\n";
      else if (escaped === "\\" || escaped === '"') value += escaped;
      // Any other backslash stands for itself: paths and patterns from older endpoints come through whole.
      else value += `\\${escaped ?? ""}`;
    }
  }

  private expect(character: string, where: string) {
    if (this.text[this.position] !== character) throw new SyntaxError(`${character} is missing ${where}`);
    this.position++;
  }

  private clip(): string {
    const rest = this.rest();
    return rest.length > 60 ? `${rest.slice(0, 60)}…` : rest;
  }
}
