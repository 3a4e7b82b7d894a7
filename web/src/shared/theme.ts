import { theme, type ThemeConfig } from "antd";

/** What both themes share: a calm table, in our own type. */
const FORM: ThemeConfig["token"] = {
  fontFamily: '"IBM Plex Sans", "Liberation Sans", sans-serif',
  fontSize: 15,
  borderRadius: 7,
  controlHeight: 38,
  wireframe: false,
  motion: false, // nothing slides while a page is looked at
};

/** The quiet work table, as Ant Design's tokens. Colours stand in theme.css too, for our own components. */
export const lightTheme: ThemeConfig = themed({
  colorPrimary: "#1d2740",
  colorInfo: "#2c4a7c",
  colorError: "#b8321f",
  colorWarning: "#7d570f",
  colorText: "#1d2740",
  colorTextSecondary: "#5d6478",
  colorTextDescription: "#5d6478",
  colorTextPlaceholder: "#6b7182",
  colorTextDisabled: "#6b7182",
  controlItemBgActive: "#cfd8e9",
  controlItemBgActiveHover: "#c1cde3",
  colorBgBase: "#fffdf8",
  colorBgLayout: "#f5f1e8",
  colorBorder: "#bdb5a2",
  colorBorderSecondary: "#d9d2c2",
  colorLink: "#2c4a7c",
});

/** The same table at night. */
export const darkTheme: ThemeConfig = {
  algorithm: theme.darkAlgorithm,
  ...themed({
    colorPrimary: "#9db8e8",
    colorInfo: "#9db8e8",
    colorError: "#ff9885",
    colorWarning: "#e2b65f",
    colorText: "#e9e5da",
    colorTextSecondary: "#a9afbf",
    colorTextDescription: "#a9afbf",
    colorTextPlaceholder: "#98a0b3",
    colorTextDisabled: "#98a0b3",
    controlItemBgActive: "#2b3956",
    controlItemBgActiveHover: "#34456a",
    colorTextLightSolid: "#14171f",
    colorBgBase: "#14171f",
    colorBgContainer: "#1c212d",
    colorBgElevated: "#1f2532",
    colorBgLayout: "#14171f",
    colorBorder: "#5b6479",
    colorBorderSecondary: "#363d4d",
    colorLink: "#9db8e8",
  }),
};

function themed(colours: NonNullable<ThemeConfig["token"]>): ThemeConfig {
  return {
    token: { ...FORM, ...colours },
    components: {
      Table: { rowSelectedBg: colours.colorBgBase, rowSelectedHoverBg: colours.colorBgBase },
      Button: { fontWeight: 600, primaryShadow: "none", defaultBg: "transparent", defaultBorderColor: colours.colorText },
    },
  };
}
