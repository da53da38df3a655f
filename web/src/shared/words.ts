// The language of the interface: of its numbers and days, and of the rule for one and many. Each feature keeps its
// sentences in a words.ts beside its components; a file words.fr.ts beside one takes its place in a build for French.
export const language = "en-GB";

import { plural } from "../shared/plural";

// format.ts
export const about = (l: string) => `about ${l}`;
export const to = (l: string, h: string) => `${l} to ${h}`;
export const under1 = "under 1 %";
export const over99 = "over 99 %";
export const underAMinute = "under a minute";
export const minutes = (r: number) => plural(r, { one: "1 minute", other: `${r} minutes` });
export const justNow = "just now";
export const days = (d: number) => plural(d, { one: "1 day", other: `${d} days` });

// Tabs.tsx
export const moreTabs = "More tabs";
