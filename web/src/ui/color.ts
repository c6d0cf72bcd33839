/** cssColor is a colour of the theme for what cannot take tokens: lines of a drawing. */
export const cssColor = (token: string) => `var(--chakra-colors-${token})`;

/** onPicture is what is drawn over a video, light or dark theme alike: pictures do not
 * change with it. */
export const onPicture = {
  line: "#f1ece0",
  soft: "#b9c0bf",
  outline: "rgba(8,11,12,.6)", // under a line, so that it shows on any ground
  label: "rgba(12,16,17,.82)",
  hollow: "rgba(12,16,17,.55)",
  pit: "#0c1011", // where there is no picture
  clay: "#d06a45",
  sky: "#8cc0d6",
  amber: "#e2aa44",
  moss: "#8eb878",
} as const;
