import { type APIRequestContext, test as base, expect, type Page } from "@playwright/test";

export { expect };

/** Tests run against the demo that the global setup started; an error in the browser's console fails them. */
export const test = base.extend<{ weather: Weather }>({
  baseURL: async ({ browserName: _ }, use) => use(process.env.BARNLAMP_URL!),
  page: async ({ page }, use) => {
    const errors: string[] = [];
    page.on("pageerror", (error) => errors.push(error.message));
    page.on("console", (message) => {
      // Refusals that a test provokes are logged by the browser itself.
      if (message.type() === "error" && !message.text().startsWith("Failed to load resource"))
        errors.push(message.text());
    });
    await use(page);
    expect(errors).toEqual([]);
  },
  weather: async ({ request }, use) => {
    const weather = new Weather(request);
    await use(weather);
    await weather.clear();
  },
});

/** Faults of the demo world; what a test lets loose ends with it. */
export class Weather {
  constructor(private readonly request: APIRequestContext) {}

  async start(kind: string, target: string) {
    const response = await this.request.post(`${process.env.BARNLAMP_URL}/api/demo/weather`, {
      data: { kind, target },
    });
    expect(response.status()).toBe(201);
  }

  async clear() {
    const { active } = await (await this.request.get(`${process.env.BARNLAMP_URL}/api/demo/weather`)).json();
    for (const { id } of active)
      await this.request.delete(`${process.env.BARNLAMP_URL}/api/demo/weather/${id}`);
  }
}

/** Waits until charts have drawn what they asked for. */
export async function chartsDrawn(page: Page) {
  await expect(page.locator("canvas").first()).toBeVisible();
  await expect(page.locator(".chakra-spinner")).toHaveCount(0);
}
