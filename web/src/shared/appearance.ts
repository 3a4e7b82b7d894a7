import { Observed } from "./Observed";

export interface Appearance {
  theme: "device" | "light" | "dark";
  /** How bright page images are shown in the dark, 1 as they are. */
  brightness: number;
}

const NAME = "inked-folio-appearance";
const DARK = matchMedia("(prefers-color-scheme: dark)");
const GROUND = { light: "#f5f1e8", dark: "#14171f" };

/** How the application looks on this device, whoever is signed in. The colours are in theme.css. */
class AppearanceStore extends Observed {
  private now = read();

  constructor() {
    super();
    DARK.addEventListener("change", () => this.apply());
    this.apply();
  }

  readonly chosen = () => this.now;

  readonly isDark = () => (this.now.theme === "device" ? DARK.matches : this.now.theme === "dark");

  choose(wanted: Partial<Appearance>) {
    this.now = { ...this.now, ...wanted };
    try {
      localStorage.setItem(NAME, JSON.stringify(this.now));
    } catch {
      // it holds until the browser is closed
    }
    this.apply();
  }

  private apply() {
    const theme = this.isDark() ? "dark" : "light";
    const root = document.documentElement;
    root.dataset.theme = theme;
    root.style.setProperty("--dim", String(this.now.brightness));
    document.querySelector("meta[name=theme-color]")?.setAttribute("content", GROUND[theme]);
    this.tell();
  }
}

function read(): Appearance {
  const fallback: Appearance = { theme: "device", brightness: 1 };
  try {
    return { ...fallback, ...(JSON.parse(localStorage.getItem(NAME) ?? "{}") as Partial<Appearance>) };
  } catch {
    return fallback;
  }
}

export const appearance = new AppearanceStore();
