import { createContext, useContext } from "react";
import type { Me, Preferences } from "../api/client";
import type { Mode } from "./theme";
import { fixed, sum } from "../shared/written";

export interface AppState {
  me: Me;
  mode: Mode;
  setMode: (m: Mode) => void;
  /** Changes how this person likes the interface, here and everywhere. */
  like: (p: Partial<Preferences>) => void;
  signOut: () => void;
  mayWrite: boolean;
  mayManage: boolean;
}

export const AppContext = createContext<AppState | null>(null);

export function useApp(): AppState {
  const a = useContext(AppContext);
  if (!a) throw new Error("useApp outside the application");
  return a;
}

/** Writes sums in the workshop's currency, whole ones unless places are asked for. */
export function useMoney(): (v: number, places?: number) => string {
  const code = useApp().me.workshop.currency;
  return (v, places = 0) => {
    if (!code) return fixed(v, places);
    try {
      return sum(v, {
        style: "currency",
        currency: code,
        minimumFractionDigits: places,
        maximumFractionDigits: places,
      });
    } catch {
      return `${fixed(v, places)} ${code}`; // a browser that does not know it
    }
  };
}
