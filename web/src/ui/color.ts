/** cssColor is a colour of the theme for what cannot take tokens: lines of a drawing. */
export const cssColor = (token: string) => `var(--chakra-colors-${token})`;
