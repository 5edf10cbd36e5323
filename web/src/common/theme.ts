import type { ThemeConfig } from "antd";
import tokens from "./tokens.css?raw";

/** A colour of tokens.css, by its name there. */
const token = (name: string) => new RegExp(`--${name}: (#[0-9a-f]{6});`).exec(tokens)?.[1] ?? "#000000";

export const colours = {
  desk: token("desk"),
  card: token("card"),
  ink: token("ink"),
  soft: token("soft"),
  placeholder: token("placeholder"),
  line: token("line"),
  accent: token("accent"),
  accentSoft: token("accent-soft"),
  warning: token("warning"),
  error: token("error"),
  light: token("light"),
  shade: token("shade"),
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
    colorTextPlaceholder: colours.placeholder,
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
    Table: { rowSelectedBg: colours.accentSoft, rowSelectedHoverBg: colours.accentSoft },
    Tree: { nodeSelectedBg: colours.accentSoft, nodeSelectedColor: colours.ink },
  },
};
