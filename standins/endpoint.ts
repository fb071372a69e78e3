import http from "node:http";
import { setTimeout as sleep } from "node:timers/promises";
import { cadvisor, podList, resource } from "./kubelet";
import { bindingList, nodeList, overview, queueList } from "./management";
import type { WeatherStation } from "./weather";
import { exposition } from "./world/exposition";
import type { SeriesSpec, StandInSpec } from "./world/series";

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
    if (this.weather.isActive("slow-endpoint", this.system.name)) await sleep(SLOW_MS);
    const json = this.document(new URL(request.url ?? "/", "http://standin").pathname);
    if (json !== undefined) {
      const text = typeof json === "string";
      const malformed = this.weather.isActive("malformed", this.system.name);
      response.writeHead(200, { "content-type": text ? "text/plain; version=0.0.4" : "application/json" });
      response.end(text ? json : malformed ? JSON.stringify(json).slice(0, -40) : JSON.stringify(json));
      return;
    }
    if (request.url !== "/metrics") {
      response.writeHead(404, { "content-type": "text/plain" }).end("metrics are at /metrics\n");
      return;
    }
    response.writeHead(200, { "content-type": "application/openmetrics-text; version=1.0.0; charset=utf-8" });
    response.end(this.text(Date.now()));
  }

  /** What a broker or a cluster says at a path of its own interface; text for metrics, data for JSON. */
  private document(path: string): unknown {
    const t = Date.now();
    const read = (spec: SeriesSpec) => this.weather.value(this.system, spec, t);
    if (this.system.kit === "broker") {
      if (path === "/api/queues") return queueList(this.system, read);
      if (path === "/api/bindings") return bindingList(this.system);
      if (path === "/api/overview") return overview(this.system, read);
      if (path === "/api/nodes") return nodeList(this.system, read);
    }
    if (this.system.kit === "cluster") {
      if (path === "/api/v1/pods")
        return podList((pod) => {
          const spec = this.system.series.find(
            (one) => one.metric.family === "container_restarts" && one.labels.pod === pod.name,
          );
          return spec ? read(spec) : 0;
        });
      const node = /^\/api\/v1\/nodes\/([\w-]+)\/proxy\/metrics\/(cadvisor|resource)$/.exec(path);
      if (node) return (node[2] === "cadvisor" ? cadvisor : resource)(this.system, node[1], read);
    }
    return undefined;
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
