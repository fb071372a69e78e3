import http from "node:http";
import { setTimeout as sleep } from "node:timers/promises";
import type { WeatherStation } from "./weather";
import { exposition } from "./world/exposition";
import type { StandInSpec } from "./world/series";

const SLOW_MS = 30_000;
const BROKEN = [
  "host_cpu{mode=user} 4",
  "this is no metric line",
  'open{label="never closed 1',
  "number_missing",
];

/** One simulated system that serves OpenMetrics text on a port of its own. */
export class Endpoint {
  private server: http.Server | null = null;

  constructor(
    readonly system: StandInSpec,
    readonly port: number,
    private readonly weather: WeatherStation,
  ) {}

  /** Listens, or stops to, as the weather says. */
  async followWeather() {
    const down = this.weather.isActive("endpoint-down", this.system.name);
    if (down && this.server) {
      const { server } = this;
      this.server = null;
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    } else if (!down && !this.server) {
      this.server = http.createServer((request, response) => this.answer(request, response));
      const { server } = this;
      await new Promise<void>((resolve, reject) => {
        server.once("error", reject);
        server.listen(this.port, "127.0.0.1", resolve);
      });
    }
  }

  private async answer(request: http.IncomingMessage, response: http.ServerResponse) {
    if (request.url !== "/metrics") {
      response.writeHead(404, { "content-type": "text/plain" }).end("metrics are at /metrics\n");
      return;
    }
    if (this.weather.isActive("slow-endpoint", this.system.name)) await sleep(SLOW_MS);
    response.writeHead(200, { "content-type": "application/openmetrics-text; version=1.0.0; charset=utf-8" });
    response.end(this.text(Date.now()));
  }

  private text(t: number): string {
    const text = exposition(this.system, (spec) => this.weather.value(this.system, spec, t));
    if (!this.weather.isActive("malformed", this.system.name)) return text;
    const lines = text.split("\n");
    BROKEN.forEach((broken, i) => {
      lines.splice(7 + i * 5, 0, broken);
    });
    return lines.join("\n");
  }
}
