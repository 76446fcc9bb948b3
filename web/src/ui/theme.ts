/** Drawing-office paper, marking-out blue, bare steel. The same names serve MUI and our own style sheet. */
import { createTheme, type Theme } from "@mui/material/styles";

const LIGHT = {
  paper: "#F5F3EE",
  sheet: "#FBFAF7",
  ink: "#1D262B",
  quiet: "#5A666E",
  rule: "#CBC9C1",
  steel: "#8B979E",
  face: "#E3E4E3",
  mark: "#23408E",
  raw: "#7A5A3C",
  opTwo: "#3D7390",
  opThree: "#5C6B74",
  onMark: "#FFFFFF",
  wash: "#DCE3F5",
  within: "#2E6B4F",
  close: "#B96A00",
  closeText: "#8F5200",
  over: "#A8281E",
  dark: "#1D262B",
  onDark: "#FFFFFF",
};

const DARK = {
  paper: "#14191D",
  sheet: "#1B2227",
  ink: "#E9E6DE",
  quiet: "#A3AEB5",
  rule: "#39434A",
  steel: "#7F8C94",
  face: "#262E34",
  mark: "#8EA9F2",
  raw: "#C2A283",
  opTwo: "#74B3CF",
  opThree: "#A9B4BB",
  onMark: "#0E1318",
  wash: "#26345C",
  within: "#6FBF97",
  close: "#E6A23C",
  closeText: "#E6A23C",
  over: "#F08276",
  dark: "#E9E6DE",
  onDark: "#14191D",
};

export type Colours = typeof LIGHT;

export const colours = (theme: "light" | "dark"): Colours => (theme === "dark" ? DARK : LIGHT);

export function makeTheme(mode: "light" | "dark"): Theme {
  const c = colours(mode);
  return createTheme({
    palette: {
      mode,
      primary: { main: c.mark, contrastText: c.onMark },
      error: { main: c.over },
      warning: { main: c.close },
      success: { main: c.within },
      background: { default: c.paper, paper: c.sheet },
      text: { primary: c.ink, secondary: c.quiet },
      divider: c.rule,
    },
    shape: { borderRadius: 2 },
    transitions: { create: () => "none" },
    typography: {
      fontFamily: "Barlow, sans-serif",
      fontSize: 13.5,
      button: { textTransform: "none", fontWeight: 600, fontSize: 14 },
    },
    components: {
      MuiButton: {
        defaultProps: { disableElevation: true, size: "small" },
        styleOverrides: { root: { minWidth: 0, padding: "4px 12px" } },
      },
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiTextField: { defaultProps: { size: "small", variant: "outlined" } },
      MuiPaper: { styleOverrides: { root: { backgroundImage: "none" } } },
      MuiDialogTitle: { styleOverrides: { root: { fontWeight: 600, fontSize: 18 } } },
    },
  });
}
