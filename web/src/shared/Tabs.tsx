import { Tabs as AntTabs } from "antd";
import type { ReactNode } from "react";
import * as words from "./words";

/** One tab: its id, what it is called, what it shows. */
export type Tab<T extends string> = readonly [id: T, label: string, shows: ReactNode];

/** Tabs; only the one that is looked at is drawn. */
export function Tabs<T extends string>({
  label,
  tabs,
  at,
  onGo,
}: {
  label: string;
  tabs: readonly Tab<T>[];
  at: T;
  onGo: (id: T) => void;
}) {
  return (
    <AntTabs
      aria-label={label}
      className="tabs"
      activeKey={at}
      onChange={(id) => onGo(id as T)}
      destroyOnHidden
      animated={false}
      more={{ icon: <span aria-label={words.moreTabs}>…</span> }}
      items={tabs.map(([key, name, shows]) => ({ key, label: name, children: key === at ? shows : null }))}
    />
  );
}
