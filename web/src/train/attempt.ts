// An attempt of the trainer, with the server or without: the machine that is made up from a seed is the same here.
import { api, must, Refused, type AttemptView, type Move } from "../api/client";
import { train } from "../offline/core";
import { keepRead, keptRead, outbox } from "../offline/keep";
import { post, reach } from "../offline/sync";
import { newId } from "../shared/id";
import * as words from "./words";

/** What an attempt is begun with. */
export interface Begin {
  exercise?: string;
  circuit?: string;
  seed?: number;
  count?: number;
  sometimes?: boolean;
}

interface Kit {
  id: string;
  begin?: Begin & { id: string };
  moves: Move[];
}

const kept = (id: string) => `attempt ${id}`;

/** The attempt as it stands here: what the server last knew, and the moves that wait to be sent. */
async function hereAttempt(id: string): Promise<AttemptView> {
  const kit = await keptRead<Kit>(kept(id));
  if (!kit) throw new Refused(0, words.thisExerciseWasNot);
  const moves = [...kit.moves];
  for (const w of await outbox())
    if (w.move?.attempt === id && w.move.n === moves.length + 1 && !w.refused) moves.push(w.move.move);
  try {
    return (await train<{ attempt: AttemptView }>({ attempt: { ...kit, moves } })).attempt;
  } catch (e) {
    const says = (e as Error).message;
    throw new Refused(422, says.charAt(0).toUpperCase() + says.slice(1) + ".");
  }
}

/** The attempt; what it needs to go on without a connection is kept with it. */
export async function readAttempt(id: string): Promise<AttemptView> {
  const waits = (await outbox()).some((w) => w.attempt?.id === id || w.move?.attempt === id);
  if (waits) return hereAttempt(id);
  try {
    const v = await reach(must(api.GET("/api/training/attempts/{id}", { params: { path: { id } } })));
    void must(api.GET("/api/training/attempts/{id}/kit", { params: { path: { id } } }))
      .then((kit) => keepRead(kept(id), kit))
      .then(() => train({ attempt: { id, begin: { id, circuit: v.circuit.id }, moves: [] } })) // the core is there then
      .catch(() => {}); // without it, the exercise just needs the connection
    return v;
  } catch (e) {
    if (e instanceof Refused && e.status === 0) return hereAttempt(id);
    throw e;
  }
}

/** Begins an attempt and says its id. */
export async function begin(what: Begin): Promise<string> {
  const id = newId();
  await post("", { attempt: { id, ...what } }, async () => {
    await keepRead(kept(id), { id, begin: { id, ...what }, moves: [] } satisfies Kit);
    return hereAttempt(id);
  });
  return id;
}

/** Makes the n-th move. */
export async function makeMove(id: string, n: number, move: Move): Promise<AttemptView> {
  const v = await post("", { move: { attempt: id, n, move } }, () => hereAttempt(id));
  const kit = await keptRead<Kit>(kept(id));
  const waits = (await outbox()).some((w) => w.move?.attempt === id);
  if (kit?.moves.length === n - 1 && !waits) void keepRead(kept(id), { ...kit, moves: [...kit.moves, move] });
  return v;
}
