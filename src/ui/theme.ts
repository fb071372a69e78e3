import { createSystem, defineConfig } from "@chakra-ui/react";
import { defaultBaseConfig } from "@chakra-ui/react/preset-base";
import {
  animationStyles,
  breakpoints,
  buttonRecipe,
  checkboxSlotRecipe,
  checkmarkRecipe,
  codeRecipe,
  cssVarsPrefix,
  cssVarsRoot,
  dialogSlotRecipe,
  fieldSlotRecipe,
  headingRecipe,
  inputRecipe,
  keyframes,
  layerStyles,
  menuSlotRecipe,
  nativeSelectSlotRecipe,
  popoverSlotRecipe,
  segmentGroupSlotRecipe,
  semanticTokens,
  spinnerRecipe,
  switchSlotRecipe,
  textareaRecipe,
  textStyles,
  tokens,
} from "@chakra-ui/react/theme";
import { DAY, NIGHT } from "./tokens";

const both = (name: keyof typeof DAY) => ({ value: { _light: DAY[name], _dark: NIGHT[name] } });

const colors = Object.fromEntries(Object.keys(DAY).map((name) => [name, both(name as keyof typeof DAY)]));

// Chakra's ready configuration brings every component's looks and eleven palettes into every page; these are those in use.
const { transparent, current, black, white, gray } = tokens.colors;
const { bg, fg, border, gray: grays } = semanticTokens.colors;
const ofPalettes = new Set(["error", "warning", "success", "info"]);
const plain = <T extends object>(shades: T) =>
  Object.fromEntries(Object.entries(shades).filter(([name]) => !ofPalettes.has(name)));

const chakra = defineConfig({
  preflight: true,
  cssVarsPrefix,
  cssVarsRoot,
  theme: {
    breakpoints,
    keyframes,
    tokens: { ...tokens, colors: { transparent, current, black, white, gray } },
    semanticTokens: {
      ...semanticTokens,
      colors: { bg: plain(bg), fg: plain(fg), border: plain(border), gray: grays },
    },
    recipes: {
      button: buttonRecipe,
      checkmark: checkmarkRecipe,
      code: codeRecipe,
      heading: headingRecipe,
      input: inputRecipe,
      spinner: spinnerRecipe,
      textarea: textareaRecipe,
    },
    slotRecipes: {
      checkbox: checkboxSlotRecipe,
      dialog: dialogSlotRecipe,
      field: fieldSlotRecipe,
      menu: menuSlotRecipe,
      nativeSelect: nativeSelectSlotRecipe,
      popover: popoverSlotRecipe,
      segmentGroup: segmentGroupSlotRecipe,
      switch: switchSlotRecipe,
    },
    textStyles,
    layerStyles,
    animationStyles,
  },
});

const config = defineConfig({
  globalCss: {
    "html, body": { bg: "paper", color: "ink", fontSize: "14px", lineHeight: "1.45" },
    html: {
      colorPalette: "spruce",
      // What Chakra's reset of the browser's own styles refers to.
      "--global-font-mono": "fonts.mono",
      "--global-font-body": "fonts.body",
      "--global-color-border": "colors.line",
    },
    "*::placeholder": { color: "soft" },
    "*::selection": { bg: "glow" },
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
        border: { DEFAULT: both("edge"), emphasized: both("edge"), muted: both("line"), error: both("now") },
        spruce: {
          DEFAULT: both("spruce"),
          solid: both("spruce"),
          contrast: { value: { _light: DAY.surface, _dark: NIGHT.sunken } },
          fg: both("spruce"),
          muted: both("tint"),
          subtle: both("tint"),
          emphasized: both("tint"),
          focusRing: both("spruce"),
          border: both("edge"),
        },
      },
    },
  },
});

export const system = createSystem(defaultBaseConfig, chakra, config);
