import { Drawer } from "antd";
import type { ReactNode } from "react";

/** The pages of the house on a small screen. */
export function HouseDrawer({ onClose, children }: { onClose: () => void; children: ReactNode }) {
  return (
    <Drawer
      open
      title="Where to"
      placement="left"
      size={280}
      onClose={onClose}
      styles={{ body: { padding: "12px 0" } }}
    >
      {children}
    </Drawer>
  );
}
