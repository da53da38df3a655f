// Warm paper, graphite ink, copper as the one accent; and a dark one for dim bays.
import type { ThemeConfig } from "antd";
import { theme } from "antd";

export type Mode = "light" | "dark";

const font = `"Source Sans 3 Variable", system-ui, sans-serif`;

export function themeFor(mode: Mode): ThemeConfig {
  const dark = mode === "dark";
  return {
    algorithm: dark ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      colorPrimary: dark ? "#d98a52" : "#9a4f1e",
      colorInfo: dark ? "#d98a52" : "#9a4f1e",
      colorLink: dark ? "#e09a66" : "#9a4f1e",
      colorBgBase: dark ? "#1b1c1e" : "#ffffff",
      colorTextBase: dark ? "#ece7de" : "#25272b",
      colorBgLayout: dark ? "#1b1c1e" : "#f1eee8",
      colorBgContainer: dark ? "#26282b" : "#ffffff",
      colorBgElevated: dark ? "#2d2f33" : "#ffffff",
      colorBorder: dark ? "#4a4c50" : "#cfc9bd",
      colorError: dark ? "#f08273" : "#b3261e",
      colorTextPlaceholder: dark ? "#aaa497" : "#6b665c",
      borderRadius: 6,
      fontFamily: font,
      fontSize: 16,
      controlHeight: 44,
      motionDurationMid: "0.12s",
      motion: !window.matchMedia("(prefers-reduced-motion: reduce)").matches,
      wireframe: false,
    },
    components: {
      Button: {
        primaryColor: dark ? "#1b1c1e" : "#ffffff",
        primaryShadow: "none",
        defaultShadow: "none",
        fontWeight: 600,
      },
      Tabs: {
        itemSelectedColor: dark ? "#e09a66" : "#9a4f1e",
        inkBarColor: dark ? "#e09a66" : "#9a4f1e",
        titleFontSize: 16,
      },
      Segmented: {
        itemColor: dark ? "#ece7de" : "#25272b",
      },
    },
  };
}

export function storedMode(): Mode {
  const m = localStorage.getItem("corriente.mode");
  if (m === "light" || m === "dark") return m;
  return window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function keepMode(m: Mode) {
  localStorage.setItem("corriente.mode", m);
  document.documentElement.dataset.mode = m;
}
