import type { ThemeConfig } from "antd";

export const colours = {
  desk: "#E9E6DF",
  paper: "#FFFFFF",
  card: "#FFFEFA",
  bar: "#F7F6F1",
  ink: "#1D2A33",
  soft: "#586469",
  line: "#D5D1C7",
  accent: "#1F6F5C",
  accentSoft: "#CFE3DC",
  warning: "#B86E00",
  error: "#B3261E",
};

export const theme: ThemeConfig = {
  token: {
    colorPrimary: colours.accent,
    colorInfo: colours.accent,
    colorLink: colours.accent,
    colorWarning: colours.warning,
    colorError: colours.error,
    colorText: colours.ink,
    colorTextSecondary: colours.soft,
    colorTextPlaceholder: "#667176",
    colorTextDescription: colours.soft,
    colorBgLayout: colours.desk,
    colorBgContainer: colours.card,
    colorBorder: colours.line,
    fontFamily: "Barlow, sans-serif",
    fontSize: 14,
    borderRadius: 6,
    wireframe: false,
    motion: false,
  },
  components: {
    Tree: { nodeSelectedBg: colours.accentSoft, nodeSelectedColor: colours.ink },
  },
};
