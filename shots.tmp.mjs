import { chromium } from "@playwright/test";

const flags = [
  "--no-sandbox",
  "--disable-gpu",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: flags });
const base = process.env.BASE ?? "http://127.0.0.1:4605";
for (const arg of process.argv.slice(2)) {
  const [name, path, ...opts] = arg.split("|");
  const page = await browser.newPage({
    viewport: { width: 1280, height: Number(opts.find((o) => /^h\d+$/.test(o))?.slice(1) ?? 800) },
    colorScheme: opts.includes("night") ? "dark" : "light",
  });
  page.on("pageerror", (e) => console.log(name, "ERROR", e.message.slice(0, 300)));
  page.on("console", (m) => m.type() === "error" && console.log(name, "console", m.text().slice(0, 300)));
  await page.goto(base + path, { waitUntil: "domcontentloaded" });
  await page.waitForTimeout(Number(opts.find((o) => /^w\d+$/.test(o))?.slice(1) ?? 6000));
  await page.screenshot({ path: `/tmp/${name}.png` });
  await page.close();
}
await browser.close();
