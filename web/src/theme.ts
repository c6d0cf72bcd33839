import { createSystem, defaultBaseConfig, defineConfig, mergeConfigs } from "@chakra-ui/react";
import * as chakra from "@chakra-ui/react/theme";
import { change, useSettings, type Settings } from "./settings/settings";

// The look in one place: evening training. Deep slate ground, chalk lines and
// text, clay as the one strong accent; moss is met, amber wants a look, sky is
// the second side. The light family is for sun and paper.
const tone = (light: string, dark: string) => ({ value: { base: light, _dark: dark } });

/** upright is a tablet that is held upright, or a phone. */
const upright = "@media (max-width: 900px)";

const forced = "@media (forced-colors: active)";
/** What is pressed is 44 px high and wide under a finger. */
const finger = "@media (pointer: coarse)";
const pressed =
  "button, [role=button], [role=tab], [role=menuitem], select, summary, textarea, input:not([type=checkbox], [type=radio], [type=hidden])";

const config = defineConfig({
  globalCss: {
    "html, body, #root": { height: "100%" },
    html: { bg: "ground" }, // a page longer than the window goes on in its colour
    body: {
      bg: "ground",
      color: "chalk",
      fontSize: "13px",
      lineHeight: "1.4",
      fontFeatureSettings: "'tnum', 'cv05'",
      overscrollBehavior: "none",
    },
    "html.dark": { colorScheme: "dark" },
    "html.light": { colorScheme: "light" },
    "*": { scrollbarWidth: "thin" },
    "::selection": { bg: "clay", color: "onClay" },
    "*:focus-visible": { outline: "2px solid {colors.focus}", outlineOffset: "1px" },
    "*, *::before, *::after": {
      "@media (prefers-reduced-motion: reduce)": {
        animationDuration: "0.01ms !important",
        animationIterationCount: "1 !important",
        transitionDuration: "0.01ms !important",
      },
    },
    // A link that takes its whole row, and what lies above it.
    ".stretched": {
      display: "block",
      lineHeight: "24px",
      fontWeight: 650,
      fontSize: "14px",
      color: "chalk",
      overflow: "hidden",
      textOverflow: "ellipsis",
      whiteSpace: "nowrap",
      "&::after": { content: '""', position: "absolute", inset: 0 },
      "&:focus-visible": { outline: "none" },
    },
    // A link that stands by itself: as large as a finger needs where there is one.
    ".tap": {
      position: "relative",
      zIndex: 1,
      display: "inline-flex",
      alignItems: "center",
      minHeight: "24px",
      textDecoration: "underline",
      textUnderlineOffset: "3px",
      [finger]: { minHeight: "44px", minWidth: "44px" },
    },
    ".above": { position: "relative", zIndex: 1, display: "inline-block", minHeight: "24px", lineHeight: "24px" },
    // What is drawn anew at every move of a dragged joint is plain elements: the
    // frame of the Bench and its rows of numbers.
    ".panel": { bg: "panel", borderRadius: "6px" },
    // A tablet held at the track has the panel narrower; upright, and on a phone, the stage comes
    // first, then the score, then the panel.
    ".bench": {
      display: "flex",
      flexDirection: "column",
      height: "100vh",
      minHeight: "640px",
      overflow: "hidden",
      [upright]: { height: "auto", minHeight: "100dvh", overflow: "visible" },
    },
    ".bench .halves": {
      display: "flex",
      flex: 1,
      minHeight: 0,
      gap: "12px",
      p: "12px 16px",
      [upright]: { flexDirection: "column", p: "8px" },
    },
    ".bench .left": {
      display: "flex",
      flexDirection: "column",
      flex: 1,
      minWidth: 0,
      gap: "10px",
      [upright]: { flex: "none" },
    },
    ".bench .place": { flex: 1, minHeight: 0, position: "relative" },
    ".bench .stages": {
      flex: 1,
      minHeight: 0,
      display: "flex",
      gap: "10px",
      [upright]: { flex: "none", height: "min(62vw, 58dvh)", minHeight: "220px" },
    },
    ".bench .beside": { flex: "0 0 38%", minWidth: 0, position: "relative", [upright]: { display: "none" } },
    // Notches under the thumb, of which the one in the middle is the frame that is shown.
    ".bench .wheel": {
      display: "none",
      height: "44px",
      touchAction: "none",
      cursor: "ew-resize",
      bg: "repeating-linear-gradient(90deg, {colors.quiet} 0 1.5px, transparent 1.5px 12px)",
      maskImage: "linear-gradient(90deg, transparent, black 35% 65%, transparent)",
      borderBlock: "1px solid {colors.seam}",
      [finger]: { display: "block" },
    },
    ".bench .score": { p: "8px 12px 4px", flexShrink: 0 },
    ".bench .side": {
      width: "388px",
      flexShrink: 0,
      display: "flex",
      flexDirection: "column",
      overflow: "hidden",
      "@media (max-width: 1100px)": { width: "340px" },
      [upright]: { width: "auto", flex: "1", overflow: "visible" },
    },
    ".bench .tab": { flex: 1, overflowY: "auto", p: "12px 16px 20px", [upright]: { overflowY: "visible" } },
    // A line of the queue, of which a dozen are made as the page opens.
    ".row": {
      position: "relative",
      display: "flex",
      alignItems: "center",
      gap: "14px",
      pr: "8px",
      bg: "panel",
      borderRadius: "6px",
      overflow: "hidden",
      outlineOffset: "-1px",
      "&:hover": { bg: "raised" },
      "&[aria-current]": { outline: "1.5px solid {colors.quiet}" },
      "&[data-over]": { outline: "2px dashed {colors.clay}" },
      "&:focus-within": { outline: "2px solid {colors.focus}" },
      "& p": { overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" },
      "& .small": { fontSize: "12px", color: "quiet" },
      "& .quiet": { color: "quiet" },
      "& [data-wants]": { color: "amber" },
      "& [data-answer]": { color: "moss" },
      "& .poster": { width: "128px", height: "100%", flexShrink: 0, bg: "pit" },
      "& img": { width: "100%", height: "100%", objectFit: "cover", objectPosition: "30% 70%" },
      "& .who": { width: "170px", minWidth: 0 },
      "& .mark": { width: "150px", minWidth: 0, flexShrink: 0 },
      "& .found": { flex: 1, minWidth: 0 },
      "& .now": { width: "116px", flexShrink: 0, textAlign: "right" },
      "& .state": { width: "72px", flexShrink: 0, display: "flex", alignItems: "center", gap: "6px", fontSize: "12px" },
      "& .narrow": { display: "none" },
      "@media (max-width: 1023px)": { gap: "10px", "& .found": { display: "none" }, "& .mark": { flex: 1 } },
      "@media (max-width: 767px)": {
        pr: "4px",
        "& .wide": { display: "none" },
        "& .narrow": { display: "block" },
        "& .poster": { width: "84px" },
        "& .who": { width: "auto", flex: 1 },
        "& .state": { width: "10px" },
      },
    },
    // The workshop: questions, then numbers in and out beside each other, a column for each try.
    ".workshop .benches": {
      display: "grid",
      gridTemplateColumns: "176px minmax(0, 1fr)",
      gap: "22px",
      [upright]: { gridTemplateColumns: "minmax(0, 1fr)", gap: "10px" },
    },
    ".workshop nav": {
      [upright]: { display: "flex", gap: "4px", overflowX: "auto", pb: "4px" },
      "& div": { mb: "12px", [upright]: { display: "flex", gap: "4px", mb: 0, flexShrink: 0 } },
      "& h2": { fontSize: "11.5px", color: "quiet", px: "10px", mb: "2px", [upright]: { display: "none" } },
      "& button": {
        display: "block",
        w: "100%",
        textAlign: "left",
        p: "5px 10px",
        borderRadius: "6px",
        color: "quiet",
        cursor: "pointer",
        lineHeight: 1.25,
        [upright]: { w: "auto", whiteSpace: "nowrap", border: "1px solid {colors.seam}" },
      },
      "& button:hover": { color: "chalk" },
      "& [aria-current]": { bg: "panel", color: "chalk", fontWeight: 600, boxShadow: "inset 3px 0 {colors.clay}" },
    },
    ".asked .both": {
      display: "grid",
      gridTemplateColumns: "minmax(0, 440px) minmax(0, 1fr)",
      gridTemplateRows: "auto 1fr",
      gridTemplateAreas: "'in picture' 'in out'",
      columnGap: "28px",
      rowGap: "12px",
      [upright]: {
        gridTemplateColumns: "minmax(0, 1fr)",
        gridTemplateAreas: "'picture' 'in' 'out'",
        gridTemplateRows: "auto",
      },
      "& .picture": { gridArea: "picture", bg: "panel", borderRadius: "6px", overflow: "hidden" },
      "& .in": { gridArea: "in" },
      "& .out": { gridArea: "out" },
    },
    ".asked.narrow .both": {
      gridTemplateColumns: "minmax(0, 1fr)",
      gridTemplateAreas: "'picture' 'in' 'out'",
      gridTemplateRows: "auto",
    },
    ".asked .rename": { bg: "raised", borderRadius: "6px", px: "8px", h: "26px", w: "110px", fontSize: "12px" },
    ".asked details summary": { color: "quiet", fontSize: "12px", cursor: "pointer", py: "6px" },
    ".asked .input": {
      display: "grid",
      gridTemplateColumns: "minmax(0, 1fr) 112px auto",
      columnGap: "10px",
      alignItems: "center",
      borderBottom: "1px solid {colors.seam}",
      py: "4px",
      minHeight: "40px",
      "& .name": { lineHeight: 1.2, gridColumn: "1", fontSize: "12.5px" },
      "& small": { color: "quiet", fontSize: "11.5px" },
      "& .source": { display: "block", fontSize: "11px", color: "quiet" },
      "& .source[data-from=clip] a": { color: "moss" },
      "& .take": { textDecoration: "underline dotted", cursor: "pointer", textAlign: "left", minHeight: "18px" },
      "& .cells": { display: "flex", gap: "8px", alignItems: "center", justifyContent: "flex-end", gridColumn: "3" },
      "& .cell, & .half": {
        display: "inline-flex",
        gap: "2px",
        alignItems: "center",
        color: "quiet",
        fontSize: "12px",
      },
      "& .cell": { minW: "118px" },
      "& .cell input": { color: "chalk" },
      "& .shown": { minW: "44px", textAlign: "right", color: "quiet" },
      "& input[type=range]": { gridColumn: "2", gridRow: "1", w: "100%", h: "20px" },
      "& input[type=range][data-empty]": { opacity: 0.35 },
      "& .list": { gridColumn: "1 / -1" },
      "& textarea": { w: "100%", bg: "raised", borderRadius: "6px", p: "5px 8px", mt: "4px" },
      "& .wrong": { color: "clay" },
      "&.many": {
        gridTemplateColumns: "minmax(0, 1fr) auto",
        "& .cells": { gridColumn: "2" },
        "& input[type=range]": { gridColumn: "1 / -1", gridRow: "2" },
      },
    },
    ".asked [data-testid=says] p": { fontSize: "14px", lineHeight: 1.35, mb: "8px" },
    ".asked .surer": { fontSize: "12px", color: "quiet", mt: "8px" },
    ".answers": {
      w: "100%",
      borderCollapse: "collapse",
      "& th": { textAlign: "left", fontWeight: 400, color: "quiet", py: "3px", pr: "8px", lineHeight: 1.25 },
      "& thead th": { textAlign: "right", fontSize: "12px", pr: 0 },
      "& thead [aria-current]": { color: "chalk", fontWeight: 600 },
      "& td": { textAlign: "right", whiteSpace: "nowrap", pl: "10px" },
      "& b": { fontWeight: 600 },
      "& small": { color: "quiet", fontSize: "11.5px" },
      "& .by": { display: "block", fontSize: "11px" },
      "& tr + tr": { borderTop: "1px solid {colors.seam}" },
      "& .main th": { color: "chalk" },
      "& .main b": { fontSize: "18px" },
    },
    ".workshop .kept": {
      display: "grid",
      gridTemplateColumns: "repeat(auto-fill, minmax(420px, 1fr))",
      gap: "10px",
      [upright]: { gridTemplateColumns: "minmax(0, 1fr)" },
    },
    ".plan": {
      "& polyline": { fill: "none", stroke: "quiet", strokeWidth: 1.5 },
      "& .ground": { fill: "seam", fillOpacity: 0.45, stroke: "none" },
      "& polyline.ground": { fill: "none", stroke: "quiet" },
      "& .fixture": { stroke: "chalk", strokeWidth: 3 },
      "& .way": { stroke: "quiet", strokeDasharray: "6 5" },
      "& .path": { stroke: "clay", strokeWidth: 2.5 },
      "& .band": { fill: "clay", fillOpacity: 0.18 },
      "& .aim": { stroke: "moss", strokeDasharray: "4 4" },
      "& .limb": { stroke: "chalk", strokeWidth: 5, strokeLinejoin: "round", strokeLinecap: "round" },
      "& .faint": { stroke: "quiet", strokeDasharray: "2 4", strokeWidth: 1.5 },
      "& .foot": { fill: "quiet" },
      "& .foot.left": { fill: "clay" },
      "& .foot.right": { fill: "sky" },
      "& .measured": { fill: "none", stroke: "amber", strokeWidth: 2 },
      "& circle.mark, & rect.mark": { fill: "amber" },
      "& .lit": { stroke: "chalk", strokeWidth: 3 },
      "& text": { fill: "quiet", fontSize: "12px" },
      "& text.mark": { fill: "chalk", fontWeight: 600 },
      "& .other polyline": { stroke: "sky", strokeWidth: 1.5 },
      "& .other text": { fill: "sky" },
    },
    ".reading": {
      py: "5px",
      px: "8px",
      mx: "-8px",
      borderRadius: "4px",
      cursor: "pointer",
      "&:hover, &[data-lit]": { bg: "raised" },
    },
    ".reading .line": { display: "flex", alignItems: "center", gap: "8px" },
    ".reading .name": { flex: 1, lineHeight: 1.25 },
    ".reading .verdict": { width: "44px", textAlign: "right", fontSize: "12px", fontWeight: 600 },
    ".reading small, .reading p": { fontSize: "11.5px", color: "quiet" },
    ".reading p": { mt: "2px" },
    // Where the system sets the colours, what is chosen has a line of its own.
    ".dot": { [forced]: { forcedColorAdjust: "none" } },
    "[aria-pressed=true], [role=tab][aria-selected=true], [aria-current]": {
      [forced]: { outline: "2px solid Highlight !important", outlineOffset: "-2px" },
    },
    ".grows, .bench .tab, [role=dialog]": { zoom: "var(--text, 1)" },
    "input[type=range]": { accentColor: "{colors.clay}" },
    kbd: { [finger]: { display: "none !important" } },
    [pressed]: { [finger]: { minHeight: "44px !important", minWidth: "44px !important" } },
    ":not(p, td, span, b) > a[href]:not(.stretched)": {
      [finger]: { display: "inline-flex", alignItems: "center", minHeight: "44px", minWidth: "44px" },
    },
    "label:has(input[type=checkbox], input[type=radio])": { [finger]: { minHeight: "44px" } },
  },
  theme: {
    tokens: {
      fonts: {
        body: { value: "'Inter Variable', system-ui, sans-serif" },
        heading: { value: "'Inter Variable', system-ui, sans-serif" },
      },
      radii: { panel: { value: "6px" } },
    },
    semanticTokens: {
      colors: {
        ground: tone("#e9e6dd", "#121719"),
        panel: tone("#f6f4ee", "#1a2123"),
        raised: tone("#ffffff", "#232c2f"),
        seam: tone("#d5d1c4", "#2c3639"),
        chalk: tone("#20282b", "#f1ece0"),
        quiet: tone("#5c676a", "#98a3a4"),
        clay: tone("#a3452a", "#d06a45"),
        onClay: tone("#fff8f2", "#1b0f0a"),
        clayFaint: tone("#f1dfd6", "#33231d"),
        moss: tone("#4a7042", "#8fb585"),
        mossFaint: tone("#dbe6d4", "#2b3a2c"),
        amber: tone("#86600a", "#e0ad4a"),
        amberFaint: tone("#f3e7c8", "#3a3120"),
        sky: tone("#2f7496", "#7fb0c4"),
        focus: tone("#8a5a00", "#e0ad4a"),
        gray: { focusRing: { value: "{colors.focus}" } },
        pit: tone("#1b2325", "#0c1011"),
      },
    },
    recipes: {
      button: {
        base: { fontWeight: "500", borderRadius: "full", fontSize: "13px" },
        variants: {
          variant: {
            solid: { bg: "clay", color: "onClay", _hover: { bg: "clay", opacity: 0.92 } },
            outline: { borderColor: "seam", color: "chalk", bg: "transparent", _hover: { bg: "raised" } },
            ghost: { color: "quiet", _hover: { bg: "raised", color: "chalk" } },
          },
          size: {
            "2xs": { h: "24px", minW: "24px", px: "10px", fontSize: "12px" },
            xs: { h: "26px", minW: "26px", px: "10px", fontSize: "12px" },
            sm: { h: "32px", px: "14px", fontSize: "13px" },
          },
        },
        defaultVariants: { size: "sm" },
      },
      input: {
        base: { fontSize: "13px", bg: "raised", borderColor: "seam", borderRadius: "panel" },
        variants: { size: { sm: { h: "32px", px: "10px" } } },
        defaultVariants: { size: "sm" },
      },
      textarea: { base: { fontSize: "13px", bg: "raised", borderColor: "seam", borderRadius: "panel" } },
    },
  },
});

// Of the library's own theme the parts that this application uses: all of it, with some seventy
// recipes, would take a good part of the time in which a page opens.
const used = defineConfig({
  preflight: true,
  cssVarsPrefix: chakra.cssVarsPrefix,
  cssVarsRoot: chakra.cssVarsRoot,
  globalCss: chakra.globalCss,
  theme: {
    breakpoints: chakra.breakpoints,
    keyframes: chakra.keyframes,
    tokens: chakra.tokens,
    semanticTokens: chakra.semanticTokens,
    textStyles: chakra.textStyles,
    layerStyles: chakra.layerStyles,
    animationStyles: chakra.animationStyles,
    recipes: {
      button: chakra.buttonRecipe,
      heading: chakra.headingRecipe,
      input: chakra.inputRecipe,
      link: chakra.linkRecipe,
      skeleton: chakra.skeletonRecipe,
      textarea: chakra.textareaRecipe,
    },
    slotRecipes: {
      dialog: chakra.dialogSlotRecipe,
      field: chakra.fieldSlotRecipe,
      menu: chakra.menuSlotRecipe,
      nativeSelect: chakra.nativeSelectSlotRecipe,
      popover: chakra.popoverSlotRecipe,
      tabs: chakra.tabsSlotRecipe,
    },
  },
});

export const system = createSystem(mergeConfigs(defaultBaseConfig, used, config));

/** look puts the chosen theme, or that of the system, and the size of the texts on the page. Only
 * what is read grows (.grows, panels, windows): where a hand points, a pixel stays a pixel. */
export function look({ theme, text }: Settings) {
  const usual = matchMedia("(prefers-color-scheme: light)").matches ? "light" : "dark";
  const page = document.documentElement;
  page.className = theme === "system" ? usual : theme;
  page.style.setProperty("--text", String(text));
}

/** useTheme tells what the page looks like now, and turns it to the other. */
export function useTheme() {
  const { theme } = useSettings();
  const to = (theme === "system" ? document.documentElement.className : theme) === "dark" ? "light" : "dark";
  return { to, turn: () => change({ theme: to }) } as const;
}
