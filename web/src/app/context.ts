import { createContext, useContext } from "react";
import type { Me } from "../api/client";
import type { Mode } from "./theme";

export interface AppState {
  me: Me;
  mode: Mode;
  setMode: (m: Mode) => void;
  signOut: () => void;
  mayWrite: boolean;
}

export const AppContext = createContext<AppState | null>(null);

export function useApp(): AppState {
  const a = useContext(AppContext);
  if (!a) throw new Error("useApp outside the application");
  return a;
}
