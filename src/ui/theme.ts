import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";
import { DAY, NIGHT } from "./tokens";

const both = (name: keyof typeof DAY) => ({ value: { _light: DAY[name], _dark: NIGHT[name] } });

const colors = Object.fromEntries(Object.keys(DAY).map((name) => [name, both(name as keyof typeof DAY)]));

const config = defineConfig({
  globalCss: {
    "html, body": { bg: "paper", color: "ink", fontSize: "14px", lineHeight: "1.45" },
    html: { colorPalette: "spruce" },
    a: { color: "spruce" },
    "*:focus-visible": { outline: "2px solid", outlineColor: "spruce", outlineOffset: "2px" },
  },
  theme: {
    tokens: {
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', sans-serif" },
        mono: { value: "'Atkinson Hyperlegible Mono Variable', monospace" },
      },
    },
    semanticTokens: {
      colors: {
        ...colors,
        bg: { DEFAULT: both("paper"), panel: both("surface"), subtle: both("sunken"), muted: both("sunken") },
        fg: { DEFAULT: both("ink"), muted: both("soft"), subtle: both("soft"), error: both("now") },
        border: { DEFAULT: both("line"), muted: both("line"), error: both("now") },
        spruce: {
          DEFAULT: both("spruce"),
          solid: both("spruce"),
          contrast: { value: { _light: DAY.surface, _dark: NIGHT.sunken } },
          fg: both("spruce"),
          muted: both("tint"),
          subtle: both("tint"),
          emphasized: both("tint"),
          focusRing: both("spruce"),
        },
      },
    },
  },
});

export const system = createSystem(defaultConfig, config);
