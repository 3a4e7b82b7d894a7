import type { ThemeConfig } from "antd";

const ink = "#1d2740";

/** The quiet work table, as Ant Design's tokens. Colours stand in theme.css too, for our own components. */
export const theme: ThemeConfig = {
  token: {
    colorPrimary: ink,
    colorInfo: "#2c4a7c",
    colorError: "#b8321f",
    colorWarning: "#7d570f",
    colorText: ink,
    colorTextSecondary: "#5d6478",
    colorTextDescription: "#5d6478",
    colorTextPlaceholder: "#6b7182",
    colorBgBase: "#fffdf8",
    colorBgLayout: "#f5f1e8",
    colorBorder: "#bdb5a2",
    colorBorderSecondary: "#d9d2c2",
    colorLink: "#2c4a7c",
    fontFamily: '"IBM Plex Sans", "Liberation Sans", sans-serif',
    fontSize: 15,
    borderRadius: 7,
    controlHeight: 38,
    wireframe: false,
    motion: false, // a calm table; nothing slides while a page is looked at
  },
  components: {
    Button: { fontWeight: 600, primaryShadow: "none", defaultBg: "transparent", defaultBorderColor: ink },
  },
};
