import { ConfigProvider } from "antd";
import type { ReactNode } from "react";
import { useLost } from "./sync";
import * as words from "./words";

/**
 * What cannot be done without the server. While it cannot be reached that is said above, and nothing below can be
 * touched: nobody types what is not taken.
 */
export function Needs({ what, children }: { what: string; children: ReactNode }) {
  const lost = useLost();
  return (
    <fieldset className="needs" disabled={lost}>
      {lost && <p className="away">{words.whenTheConnectionIs(what)}</p>}
      <ConfigProvider componentDisabled={lost || undefined}>{children}</ConfigProvider>
    </fieldset>
  );
}
