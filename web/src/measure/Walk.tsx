import { Button } from "antd";
import { useEffect, useRef, useState } from "react";
import type { Picture } from "../api/client";
import { evidence, nodeLabel, stateOf, useJob } from "../job/job";
import { useNarrow } from "../shared/hooks";
import { Keypad } from "./Keypad";
import type { Entering } from "./NextReading";
import { beep, useLive, useMeter, withMeter } from "./live";
import * as words from "./words";

/** How many places one walk takes: what a person can hold a key for. */
const most = 5;

/** The places worth walking: where the surviving diagnoses differ most, in the order of the path. */
export function places(pic: Picture, black: string): string[] {
  const nodes = (pic.paths[0]?.nodes ?? []).filter(
    (n) => n.id !== black && !n.hidden && n.measured === undefined,
  );
  const wide = [...nodes].sort((a, b) => b.high - b.low - (a.high - a.low)).slice(0, most);
  return nodes.filter((n) => wide.includes(n)).map((n) => n.id);
}

/** Walk the path: the state is held once, black stays, red moves; each value draws its step at once. */
export function Walk({
  route,
  enter,
  onRed,
  onEnd,
}: {
  route: string[];
  enter: Entering;
  onRed: (node: string | undefined) => void;
  onEnd: () => void;
}) {
  const { circuit, state } = useJob();
  const black = "bat_neg";
  const narrow = useNarrow();
  const [at, setAt] = useState(0);
  const [taken, setTaken] = useState<Record<string, string>>({});
  const [text, setText] = useState("");
  const field = useRef<HTMLInputElement>(null);
  const red = route[at];
  const st = stateOf(circuit, state);
  const { meter, fit, choose } = useMeter("voltage");
  const live = useLive(red ? meter : undefined, {
    measure: "voltage",
    state,
    from: red,
    to: black,
    through: undefined,
  });
  // The path stands above: it is what one looks at while walking.
  useEffect(() => {
    void window.scrollTo({ top: 0 }); // its answer is no clean-up
  }, []);
  useEffect(() => {
    onRed(red);
    field.current?.focus({ preventScroll: true });
  }, [red, onRed]);
  // The next place lights up at once; a value that is refused brings its place back.
  const take = (value: string) => {
    const typed = value.trim();
    if (!red || typed === "") return;
    const place = at;
    setTaken((t) => ({ ...t, [red]: typed }));
    setText("");
    setAt(place + 1);
    const e = evidence({
      measure: "voltage",
      state,
      from: red,
      to: black,
      value: typed,
      ...withMeter(meter, "voltage"),
    });
    enter.mutateAsync({ evidence: [e], state }).then(beep, () => {
      setTaken((t) => ({ ...t, [red]: "" }));
      setAt(place);
      setText(typed);
    });
  };
  // With a live meter the value is taken as it comes to rest at the new place; one that has not moved is still the old place.
  const r = live.reading;
  const arrived = !!r && r.settled && (r.over || r.max - r.min > 0.05);
  const busy = useRef("");
  useEffect(() => {
    if (!arrived || !red || busy.current === red) return;
    busy.current = red;
    take(r.take);
  });
  return (
    <section className="card next walk" aria-label={words.walkThePath}>
      <p className="next-head">
        <span>
          {words.walkWalkThePath} {st?.label}
        </span>
        <button type="button" className="link" onClick={onEnd}>
          {words.endTheWalkEsc}
        </button>
      </p>
      <h1>{red ? words.blackStaysOnBattery(nodeLabel(circuit, red)) : words.theWalkIsDone}</h1>
      {st?.hold && red && (
        <p className="how">
          <b>{st.hold}.</b>
        </p>
      )}
      <ol className="walk-list">
        {route.map((id, i) => (
          <li key={id} className={i === at ? "here" : ""} aria-current={i === at ? "step" : undefined}>
            <button type="button" className="link" onClick={() => setAt(i)}>
              {nodeLabel(circuit, id)}
            </button>
            <b>{taken[id] || (i === at ? "…" : "")}</b>
          </li>
        ))}
      </ol>
      {red ? (
        <form
          className="entry"
          onSubmit={(e) => {
            e.preventDefault();
            take(text || (r?.settled ? r.take : ""));
          }}
        >
          <div className="entry-row">
            <div className="entry-field">
              <input
                ref={field}
                aria-label={words.whatTheMeterShows}
                value={text}
                inputMode={narrow ? "none" : "text"}
                autoComplete="off"
                maxLength={24}
                onChange={(e) => setText(e.target.value)}
                onKeyDown={(e) => {
                  if (e.key === "Escape") onEnd();
                  if (e.key === " " && r) {
                    e.preventDefault();
                    take(r.take);
                  }
                }}
              />
              <span className="entry-unit">V</span>
            </div>
            <div className="entry-says" role="status">
              {live.problem ? (
                <span className="warn">{live.problem}</span>
              ) : r ? (
                <b className={r.settled ? "live settled" : "live"}>
                  {r.text} {r.settled ? words.atRest : words.moving}
                </b>
              ) : (
                <span className="quiet">{words.typeEnterMoveOn}</span>
              )}
            </div>
            <Button type="primary" size="large" htmlType="submit">
              {words.nextPlace} <kbd>Enter</kbd>
            </Button>
          </div>
          {narrow && (
            <Keypad onKey={(k) => setText((x) => (k === "⌫" ? x.slice(0, -1) : k === "OL" ? "OL" : x + k))} />
          )}
        </form>
      ) : (
        <Button type="primary" size="large" autoFocus onClick={onEnd}>
          {words.seeWhatItSays}
        </Button>
      )}
      {enter.error && (
        <p className="wrong" role="alert">
          {enter.error.message}
        </p>
      )}
      <div className="next-tools">
        {red && <Button onClick={() => setAt(at + 1)}>{words.skipThisPlace}</Button>}
        {fit.some((v) => v.address) && (
          <select
            aria-label={words.readWith}
            value={meter?.name ?? ""}
            onChange={(e) => choose(e.target.value)}
          >
            <option value="">{words.anOrdinaryMeter}</option>
            {fit.map((v) => (
              <option key={v.id}>{v.name}</option>
            ))}
          </select>
        )}
      </div>
    </section>
  );
}
