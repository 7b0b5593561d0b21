import { createTheme, type MantineColorsTuple } from "@mantine/core";

const shades = (...colours: string[]) => colours as unknown as MantineColorsTuple;

/** Drawing paper, ink and three signal colours; see product words: settled, look, stop. */
export const theme = createTheme({
  fontFamily: "Barlow, sans-serif",
  fontFamilyMonospace: "'IBM Plex Mono', monospace",
  headings: { fontFamily: "'Barlow Condensed', sans-serif", fontWeight: "600" },
  defaultRadius: 0,
  primaryColor: "ink",
  primaryShade: 8,
  colors: {
    ink: shades("#F6F3EC", "#E7E2D6", "#C9C2B4", "#A39C8D", "#7F796C", "#6B6659", "#4B4A47", "#33353A", "#22262B", "#15181B"),
    verdigris: shades("#EAF4F2", "#CFE5E1", "#A6CFC8", "#7BB7AE", "#559F95", "#2F7F74", "#286F65", "#215D55", "#1A4A44", "#123632"),
    vermilion: shades("#FBEBE7", "#F2CEC6", "#E6A396", "#D97865", "#CB553E", "#B83A24", "#A3321E", "#872919", "#6B2013", "#4C160D"),
  },
  black: "#22262B",
  white: "#FFFFFF",
});
