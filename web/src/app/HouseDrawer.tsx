import { Drawer } from "antd";
import type { ReactNode } from "react";
import * as words from "./words";

/** The pages of the house on a small screen. */
export function HouseDrawer({ onClose, children }: { onClose: () => void; children: ReactNode }) {
  return (
    <Drawer
      open
      title={words.whereTo}
      placement="left"
      size={280}
      onClose={onClose}
      styles={{ body: { padding: "12px 0" } }}
    >
      {children}
    </Drawer>
  );
}
