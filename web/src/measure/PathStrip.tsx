import { memo } from "react";
import type { Picture } from "../api/client";
import { quantity, range, share } from "../shared/format";
import { Dots, type Probes } from "./CurrentPath";
import { judge } from "./scale";
import * as words from "./words";
import { fixed } from "../shared/written";

/** The current path on a phone: top to bottom, one line a node, one a station. */
export const PathStrip = memo(function PathStrip({
  picture,
  probes,
  onNode,
  onStation,
}: {
  picture: Picture;
  probes?: Probes;
  onNode: (id: string) => void;
  onStation: (id: string) => void;
}) {
  return (
    <div className="strip">
      <div className="strip-others">
        {picture.others.map((o) => (
          <button key={o.id} type="button" className="strip-station" onClick={() => onStation(o.id)}>
            <b>{o.label}</b>
            <Dots p={o.suspect} />
          </button>
        ))}
      </div>
      {picture.note && <p className="path-note">{picture.note}</p>}
      {picture.paths.map((p) => (
        <section key={p.id} aria-label={words.pathWithLabel(p.label)}>
          <h2>{p.label}</h2>
          <ol>
            {p.nodes.map((n, i) => {
              const s = p.stations[i];
              const v = s ? judge(s.measured, s.allowed) : "unknown";
              const flag = probes?.red === n.id ? "red" : probes?.black === n.id ? "black" : "";
              return (
                <li key={n.id}>
                  <button
                    type="button"
                    disabled={n.hidden}
                    className={`strip-node ${n.measured !== undefined ? "measured" : ""}`}
                    onClick={() => onNode(n.id)}
                  >
                    <span className={`strip-flag ${flag}`}>{flag && `▼ ${flag}`}</span>
                    <span>{n.label}</span>
                    <b>
                      {!picture.powered
                        ? ""
                        : n.measured !== undefined
                          ? quantity(n.measured, "voltage")
                          : n.loose
                            ? words.floating
                            : range(n.low, n.high, "voltage")}
                    </b>
                  </button>
                  {s && (
                    <button type="button" className={`strip-station ${v}`} onClick={() => onStation(s.id)}>
                      <span>
                        <b>{s.label}</b>
                        <small>
                          {picture.powered && s.measured !== undefined && s.allowed > 0
                            ? words.ofVWithMeasured(
                                fixed(s.measured, 2),
                                fixed(s.allowed, 2),
                                v === "bad"
                                  ? words.pathStripTooMuch
                                  : v === "near"
                                    ? words.pathStripAtTheLimit
                                    : words.pathStripGood,
                              )
                            : ""}
                        </small>
                      </span>
                      <span title={share(s.suspect)}>
                        <Dots p={s.suspect} />
                      </span>
                    </button>
                  )}
                </li>
              );
            })}
          </ol>
        </section>
      ))}
    </div>
  );
});
