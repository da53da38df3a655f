// How well a few letters fit what is looked for.

/** What a thing is called, and what else it is found by. */
export interface Names {
  head: string;
  rest: string;
}

const plain = (s: string) => s.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();

/** 0 where a word is not found; more the better it fits: as a beginning, inside, or letter by letter in the head. */
function fit(word: string, n: Names): number {
  const starts = (s: string) => s.split(/[^\p{L}\p{N}]+/u).some((w) => w.startsWith(word));
  if (n.head.startsWith(word)) return 6;
  if (starts(n.head)) return 5;
  if (n.head.includes(word)) return 4;
  if (starts(n.rest)) return 3;
  if (n.rest.includes(word)) return 2;
  let i = 0;
  for (const c of n.head) if (c === word[i]) i++;
  return word.length > 1 && i === word.length ? 1 : 0;
}

/** What fits every word of the text, the best first; all of it in its order where nothing is typed. */
export function rank<T>(text: string, all: T[], names: (x: T) => Names): T[] {
  const words = plain(text).split(/\s+/).filter(Boolean);
  if (words.length === 0) return all;
  return all
    .map((x) => {
      const n = names(x);
      const fits = words.map((w) => fit(w, { head: plain(n.head), rest: plain(n.rest) }));
      return { x, score: fits.includes(0) ? 0 : fits.reduce((s, f) => s + f, 0) };
    })
    .filter((f) => f.score > 0)
    .sort((a, b) => b.score - a.score)
    .map((f) => f.x);
}
