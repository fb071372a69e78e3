/** The simulated outside world of the demo: one process with every stand-in, on loopback. */
import fs from "node:fs";
import http from "node:http";
import path from "node:path";
import { runBookings } from "./bookings";
import { Endpoint } from "./endpoint";
import { writeGcLog } from "./gcLogWriter";
import { MailServer } from "./mailServer";
import { WEATHER_KINDS, WeatherStation, weatherRequest } from "./weather";
import { liveHeap, skerryLine } from "./world/skerryLine";

const home = process.env.BARNLAMP_HOME!;
const controlPort = Number(process.env.STANDINS_CONTROL_PORT);
const mailPort = Number(process.env.STANDINS_MAIL_PORT);
const firstPort = Number(process.env.STANDINS_FIRST_PORT);
const { anchor } = JSON.parse(fs.readFileSync(path.join(home, "world.json"), "utf8")) as { anchor: number };

const weather = new WeatherStation(path.join(home, "weather.json"));
const mail = new MailServer(mailPort, path.join(home, "mail.json"));
const endpoints = skerryLine(anchor).map((system, i) => new Endpoint(system, firstPort + i, weather));

/** Every target that each kind of weather can come over. */
const targets = {
  systems: endpoints.map(({ system }) => system.name),
  hosts: endpoints.filter(({ system }) => system.kit === "host").map(({ system }) => system.name),
  queues: ["manifest", "ticket-mail", "gate-scan"].map((queue) => `signal-box/${queue}`),
};

function targetsOf(kind: keyof typeof WEATHER_KINDS): string[] {
  if (kind === "mail-down") return ["mail"];
  if (kind === "cpu-storm") return targets.hosts;
  return kind === "queue-stall" ? targets.queues : targets.systems;
}

async function followWeather() {
  for (const endpoint of endpoints) await endpoint.followWeather();
  await mail.follow(weather.isActive("mail-down", "mail"));
}

async function readBody(request: http.IncomingMessage): Promise<unknown> {
  let text = "";
  for await (const chunk of request) {
    text += chunk;
    if (text.length > 10_000) throw new Error("too long");
  }
  return JSON.parse(text || "{}");
}

async function control(request: http.IncomingMessage): Promise<[status: number, body: unknown]> {
  const { pathname } = new URL(request.url ?? "/", "http://control");
  const call = `${request.method} ${pathname}`;
  if (call === "GET /weather") {
    const kinds = Object.entries(WEATHER_KINDS).map(([kind, title]) => ({
      kind,
      title,
      targets: targetsOf(kind as keyof typeof WEATHER_KINDS),
    }));
    return [200, { kinds, active: weather.active() }];
  }
  if (call === "POST /weather") {
    const wanted = weatherRequest.safeParse(await readBody(request));
    if (!wanted.success || !targetsOf(wanted.data.kind).includes(wanted.data.target))
      return [422, { message: "no such kind of weather or target" }];
    const started = weather.start(wanted.data.kind, wanted.data.target);
    await followWeather();
    return [201, started];
  }
  const ended = /^DELETE \/weather\/(\d+)$/.exec(call);
  if (ended) {
    const found = weather.end(Number(ended[1]));
    await followWeather();
    return found ? [200, {}] : [404, { message: "no such weather" }];
  }
  if (call === "GET /mail") return [200, { mails: mail.mails() }];
  if (call === "DELETE /mail") {
    mail.empty();
    return [200, {}];
  }
  return [404, { message: "unknown" }];
}

const server = http.createServer((request, response) => {
  control(request)
    .catch((error: Error): [number, unknown] => [400, { message: error.message }])
    .then(([status, body]) => {
      response.writeHead(status, { "content-type": "application/json" }).end(JSON.stringify(body));
    });
});

await followWeather();
const ending = new AbortController();
if (process.env.STANDINS_BOOKINGS_URL) void runBookings(process.env.STANDINS_BOOKINGS_URL, ending.signal);
writeGcLog(path.join(home, "fare-engine", "gc.log"), (t) => liveHeap(t, anchor));
await new Promise<void>((resolve, reject) => {
  server.once("error", reject);
  server.listen(controlPort, "127.0.0.1", resolve);
});
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => process.exit(0));
