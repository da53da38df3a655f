import { Fragment, memo, useLayoutEffect, useRef, useState } from "react";
import type { KeyboardEvent, RefObject } from "react";
import type { Picture, PictureNode, PicturePath, PictureStation } from "../api/client";
import { quantity, range, share } from "../shared/format";
import { useWidth } from "../shared/hooks";
import { judge, scaleFor, wrap, type Scale } from "./scale";
import * as words from "./words";
import { fixed } from "../shared/written";

export interface Probes {
  red: string;
  black?: string;
}

interface Props {
  picture: Picture;
  probes?: Probes;
  /** What a side path does to the main one, by path: "closes the main contact". */
  ties?: Record<string, string>;
  onNode: (id: string) => void;
  onStation: (id: string) => void;
}

const press = (f: () => void) => ({
  onClick: f,
  onKeyDown: (e: KeyboardEvent) => {
    if (e.key === "Enter") {
      e.preventDefault();
      f();
    }
  },
  tabIndex: 0,
  role: "button",
});

/** The circuit as the way the current takes; its height is the voltage. */
export const CurrentPath = memo(function CurrentPath(props: Props) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const bottom = LOWEST - useShrink(ref);
  const { picture } = props;
  const main = picture.paths.find((p) => p.stations.some((s) => s.kind === "motor"));
  // Short side paths share a row.
  const sides = picture.paths.filter((p) => p !== main);
  const rows: PicturePath[][] = [];
  for (const p of sides) {
    const row = rows.at(-1);
    const used = row?.reduce((n, x) => n + x.stations.length + 1, 0) ?? 99;
    if (row && used + p.stations.length + 1 <= 7) row.push(p);
    else rows.push([p]);
  }
  return (
    <div ref={ref} className="path">
      {width > 0 && main && <MainPath {...props} path={main} width={width} bottom={bottom} />}
      {width > 0 &&
        rows.map((row) => {
          const all = row.reduce((n, p) => n + p.stations.length + 1, 0);
          return (
            <div key={row[0]!.id} className="path-row">
              {row.map((p) => (
                <ControlPath
                  key={p.id}
                  {...props}
                  path={p}
                  width={Math.floor((width * (p.stations.length + 1)) / all)}
                />
              ))}
            </div>
          );
        })}
      {picture.note && <p className={`path-note ${picture.powered ? "" : "dead"}`}>{picture.note}</p>}
      <p className="path-key">
        {picture.others.map((o) => (
          <button key={o.id} type="button" className="path-other" onClick={() => props.onStation(o.id)}>
            {o.label} <Dots p={o.suspect} />
          </button>
        ))}
        {picture.powered && (
          <span>
            <b>{words.bar}</b> {words.voltsLostAgainstAllowed} <b>{words.dots}</b>{" "}
            {words.suspicionTenIsCertain} <b>{words.dotted}</b> {words.aGoodCircuit} <b>{words.shaded}</b>{" "}
            {words.stillPossible}
          </span>
        )}
      </p>
    </div>
  );
});

const TOP = 36;
/** The foot of the plot where there is room enough, and how far it may come up where there is not. */
const LOWEST = 144;
const GIVES = 76;
/** What stands under the plot: names, gauges, suspicion. */
const FEET = 96;

/** How much lower the picture must be drawn to stand whole in the room that what stands around it leaves. */
function useShrink(ref: RefObject<HTMLDivElement | null>): number {
  const [shrink, setShrink] = useState(0);
  const now = useRef(0);
  useLayoutEffect(() => {
    const el = ref.current;
    const box = el?.parentElement;
    if (!el || !box) return;
    const look = () => {
      const [first, last] = [el.firstElementChild, el.lastElementChild];
      if (!first || !last) return;
      const style = getComputedStyle(box);
      let room = box.clientHeight - parseFloat(style.paddingTop) - parseFloat(style.paddingBottom);
      for (const c of box.children) if (c !== el) room -= c.getBoundingClientRect().height;
      const needs = last.getBoundingClientRect().bottom - first.getBoundingClientRect().top;
      // Where the page scrolls as a whole there is room for all of it.
      const next =
        style.display === "flex" ? Math.min(Math.max(Math.ceil(now.current + needs - room), 0), GIVES) : 0;
      if (Math.abs(next - now.current) <= 1) return;
      now.current = next;
      setShrink(next);
    };
    const ro = new ResizeObserver(look);
    ro.observe(el);
    for (const c of box.children) ro.observe(c);
    return () => ro.disconnect();
  }, [ref]);
  return shrink;
}

function MainPath({
  path,
  width,
  bottom,
  picture,
  probes,
  onNode,
  onStation,
}: Props & { path: PicturePath; width: number; bottom: number }) {
  const middle = (TOP + bottom) / 2;
  const m = path.stations.findIndex((s) => s.kind === "motor");
  const supply = path.nodes.slice(0, m + 1);
  const ground = path.nodes.slice(m + 1);
  const left = 44;
  const right = width - 38;
  const motorGap = Math.min(190, width * 0.17);
  const gaps = path.stations.length - 1;
  const gap = (right - left - motorGap - 40) / gaps;
  const x = path.nodes.map((_, i) => (i <= m ? left + i * gap : left + (i - 1) * gap + motorGap + 40));
  const sv = scaleFor(supply, TOP, bottom, 1, false);
  const gv = scaleFor(ground, TOP + 16, bottom, 0.5, true);
  const sc = (i: number): Scale => (i <= m ? sv : gv);
  const motor = path.stations[m]!;
  const mx = (x[m]! + x[m + 1]!) / 2;
  const label = path.stations
    .map((s) =>
      words.suspicion(
        s.label,
        s.measured !== undefined ? words.lost(quantity(s.measured, "voltage")) : words.notMeasured,
        share(s.suspect),
      ),
    )
    .join("; ");
  return (
    <svg width={width} height={bottom + FEET} role="group" aria-label={words.currentPath(label)}>
      {picture.powered && (
        <>
          <Axis bottom={bottom} scale={sv} from={left} to={x[m]!} title={words.supplySideVoltsTo} />
          <Axis bottom={bottom} scale={gv} from={x[m + 1]!} to={right} title={words.groundSideVoltsTo} end />
          <Band nodes={supply} x={x.slice(0, m + 1)} scale={sv} />
          <Band nodes={ground} x={x.slice(m + 1)} scale={gv} />
          <Ghost nodes={supply} x={x.slice(0, m + 1)} scale={sv} />
          <Ghost nodes={ground} x={x.slice(m + 1)} scale={gv} />
        </>
      )}
      {path.stations.map((s, i) => {
        if (i === m) return null;
        const [a, b] = [path.nodes[i]!, path.nodes[i + 1]!];
        const both = a.measured !== undefined && b.measured !== undefined;
        const v = judge(s.measured, s.allowed);
        const [y1, y2] = picture.powered
          ? [sc(i).y(a.measured ?? a.mid), sc(i + 1).y(b.measured ?? b.mid)]
          : [middle, middle];
        return (
          <line
            key={s.id}
            className={`step ${both ? "solid" : "open"} ${v === "bad" ? "bad" : ""} ${a.loose || b.loose ? "loose" : ""}`}
            x1={x[i]}
            y1={y1}
            x2={x[i + 1]}
            y2={y2}
          />
        );
      })}
      <MotorBlock
        middle={middle}
        x={mx}
        from={x[m]!}
        to={x[m + 1]!}
        y1={picture.powered ? sv.y(path.nodes[m]!.measured ?? path.nodes[m]!.mid) : middle}
        y2={picture.powered ? gv.y(path.nodes[m + 1]!.measured ?? path.nodes[m + 1]!.mid) : middle}
        s={motor}
        picture={picture}
        onStation={onStation}
      />
      {path.nodes.map((n, i) => (
        <NodeDot
          bottom={bottom}
          key={n.id}
          n={n}
          x={x[i]!}
          y={picture.powered ? sc(i).y(n.measured ?? n.mid) : middle}
          powered={picture.powered}
          probes={probes}
          onNode={onNode}
          first={i === 0}
          last={i === path.nodes.length - 1}
        />
      ))}
      {path.stations.map((s, i) => (
        <StationFoot
          bottom={bottom}
          key={s.id}
          s={s}
          x={i === m ? mx : (x[i]! + x[i + 1]!) / 2}
          w={i === m ? motorGap : gap}
          powered={picture.powered}
          onStation={onStation}
          motor={i === m}
        />
      ))}
    </svg>
  );
}

/** The figures stand at the outer end, clear of the motor's leads. */
function Axis(props: {
  bottom: number;
  scale: Scale;
  from: number;
  to: number;
  title: string;
  end?: boolean;
}) {
  const { bottom, scale, from, to, title, end } = props;
  return (
    <g className="axis" aria-hidden>
      <text x={from} y={bottom + 11}>
        {title}
      </text>
      {scale.ticks.map((t) => (
        <g key={t}>
          <line x1={from} x2={to} y1={scale.y(t)} y2={scale.y(t)} />
          <text x={end ? to + 12 : from - 8} y={scale.y(t) + 4} textAnchor={end ? "start" : "end"}>
            {Math.abs(scale.high - scale.low) > 3 ? fixed(t, 0) : fixed(t, 1)}
          </text>
        </g>
      ))}
    </g>
  );
}

const edge = (n: PictureNode, high: boolean) => n.measured ?? (n.loose ? n.ghost : high ? n.high : n.low);

function Band({ nodes, x, scale }: { nodes: PictureNode[]; x: number[]; scale: Scale }) {
  const up = nodes.map((n, i) => `${x[i]},${scale.y(edge(n, true))}`);
  const down = nodes.map((n, i) => `${x[i]},${scale.y(edge(n, false))}`).reverse();
  return <polygon className="band" points={[...up, ...down].join(" ")} aria-hidden />;
}

function Ghost({ nodes, x, scale }: { nodes: PictureNode[]; x: number[]; scale: Scale }) {
  return (
    <polyline
      className="ghost"
      points={nodes.map((n, i) => `${x[i]},${scale.y(n.ghost)}`).join(" ")}
      aria-hidden
    />
  );
}

function NodeDot({
  bottom,
  n,
  x,
  y,
  powered,
  probes,
  onNode,
  first,
  last,
}: {
  bottom: number;
  n: PictureNode;
  x: number;
  y: number;
  powered: boolean;
  probes?: Probes;
  onNode: (id: string) => void;
  first: boolean;
  last: boolean;
}) {
  const value =
    n.measured !== undefined
      ? quantity(n.measured, "voltage")
      : n.loose
        ? "floating"
        : words.expected(range(n.low, n.high, "voltage"));
  const flag = probes?.red === n.id ? "red" : probes?.black === n.id ? "black" : null;
  const below = flag !== null;
  // Under the flag there is no room above the names: the figure goes beside it.
  const low = below && y + 24 > bottom && !first;
  // What is read out begins with what is seen; the blanks between texts keep them words.
  const seen = [
    `${n.label} (${n.place})`,
    powered && n.measured !== undefined && fixed(n.measured, 2),
    powered && n.measured === undefined && n.loose && "floating",
    flag,
  ]
    .filter(Boolean)
    .join(" ");
  if (n.hidden)
    return (
      <g className="node inside" aria-hidden>
        <title>{n.label}</title>
        <circle className="dot" cx={x} cy={y} r={2} />
      </g>
    );
  return (
    <g
      {...press(() => onNode(n.id))}
      className="node"
      aria-label={words.putAProbeHere(seen, powered ? value : words.probePoint)}
    >
      <title>{`${n.label} (${n.place})`}</title> <circle className="hit" cx={x} cy={y} r={22} />
      <circle
        className={n.measured !== undefined ? "dot measured" : "dot"}
        cx={x}
        cy={y}
        r={n.measured !== undefined ? 6 : 5}
      />
      {powered && n.measured !== undefined && (
        <text
          className="volts"
          x={x + (low ? -14 : first ? -4 : last ? 4 : 0)}
          y={y + (low ? -4 : below ? 24 : -12)}
          textAnchor={low ? "end" : first ? "start" : last ? "end" : "middle"}
        >
          {fixed(n.measured, 2)}
        </text>
      )}
      {powered && n.measured === undefined && n.loose && (
        <text className="floating" x={x} y={y - 12} textAnchor="middle">
          {words.floating}
        </text>
      )}{" "}
      {flag && (
        <g className={`probe ${flag}`} aria-hidden>
          <path d={`M${x - 9},${y - 26} h18 l-9,16 z`} />
          <text x={x} y={y - 31} textAnchor={last ? "end" : first ? "start" : "middle"}>
            {flag}
          </text>
        </g>
      )}
    </g>
  );
}

function MotorBlock({
  middle,
  x,
  from,
  to,
  y1,
  y2,
  s,
  picture,
  onStation,
}: {
  middle: number;
  x: number;
  from: number;
  to: number;
  y1: number;
  y2: number;
  s: PictureStation;
  picture: Picture;
  onStation: (id: string) => void;
}) {
  // As tall as the plot beside it, and a little more.
  const tall = Math.min(112, 2 * (middle - TOP) + 8);
  const w = Math.min(116, to - from - 70);
  const volts =
    s.measured !== undefined ? quantity(s.measured, "voltage") : range(s.drop.low, s.drop.high, "voltage");
  return (
    <g
      {...press(() => onStation(s.id))}
      className="motor"
      aria-label={picture.powered ? words.motorAcrossThe(volts, s.label) : words.motorThe(s.label)}
    >
      <path
        className="lead"
        d={`M${from},${y1} C${from + 40},${y1} ${x - w / 2 - 30},${middle} ${x - w / 2},${middle}`}
      />
      <path
        className="lead"
        d={`M${x + w / 2},${middle} C${x + w / 2 + 30},${middle} ${to - 40},${y2} ${to},${y2}`}
      />
      <rect x={x - w / 2} y={middle - tall / 2} width={w} height={tall} rx={Math.min(42, tall / 2.6)} />
      <text className="motor-name" x={x} y={middle - 4} textAnchor="middle">
        {words.motor}
      </text>{" "}
      {picture.powered && (
        <text
          className={s.measured !== undefined ? "motor-volts" : "motor-volts guess"}
          x={x}
          y={middle + 20}
          textAnchor="middle"
        >
          {volts}
        </text>
      )}
    </g>
  );
}

export function Dots({ p }: { p: number }) {
  const n = Math.round(p * 10);
  return (
    <span className="dots" role="img" aria-label={words.suspicionWithShare(share(p))}>
      {Array.from({ length: 10 }, (_, i) => (
        <i key={i} className={i < n ? "on" : ""} />
      ))}
    </span>
  );
}

function StationFoot({
  bottom,
  s,
  x,
  w,
  powered,
  onStation,
  motor,
}: {
  bottom: number;
  s: PictureStation;
  x: number;
  w: number;
  powered: boolean;
  onStation: (id: string) => void;
  motor: boolean;
}) {
  const v = judge(s.measured, s.allowed);
  const bw = Math.min(w - 24, 128);
  const full = Math.max(s.allowed * 2, 0.001);
  const fill = s.measured !== undefined ? Math.min(Math.abs(s.measured) / full, 1) : 0;
  const n = Math.round(s.suspect * 10);
  const times = s.allowed > 0 && s.measured !== undefined ? Math.abs(s.measured) / s.allowed : 0;
  const lines = wrap(s.label, Math.max(Math.floor(w / 8.2), 8));
  const dot = Math.min(10, (w - 8) / 10);
  const gauged = powered && !motor && s.allowed >= 0.02;
  const says = !gauged
    ? ""
    : s.measured !== undefined
      ? words.ofV(
          fixed(s.measured, 2),
          fixed(s.allowed, 2),
          v === "bad"
            ? words.tooMuch(times >= 10 ? fixed(times, 0) : fixed(times, 1))
            : v === "near"
              ? words.atTheLimit
              : words.good,
        )
      : words.allowedV(fixed(s.allowed, 2));
  // Where a station has little room, less is written; what is read out is the whole.
  const room = (w - 6) / 6.1;
  const written =
    [
      says,
      `${v === "bad" ? "✕ " : v === "near" ? "! " : v === "good" ? "✓ " : ""}${says.split(" · ")[0]!}`,
      says.split(" · ")[0]!,
      s.measured !== undefined ? fixed(s.measured, 2) : words.max(fixed(s.allowed, 2)),
    ].find((t) => t.length <= room) ?? "";
  return (
    <g
      {...press(() => onStation(s.id))}
      className={`foot ${v}`}
      aria-label={words.whatItIsAnd(
        [...lines, written].join(" ").trim(),
        written === says ? "" : ` (${says})`,
      )}
    >
      {lines.map((l, i) => (
        <Fragment key={l}>
          <text
            className="foot-name"
            x={x}
            y={(lines.length > 1 ? bottom + 28 : bottom + 36) + i * 15}
            textAnchor="middle"
          >
            {l}
          </text>{" "}
        </Fragment>
      ))}
      {gauged && (
        <>
          <rect className="gauge" x={x - bw / 2} y={bottom + 50} width={bw} height={8} />
          <rect className="gauge-fill" x={x - bw / 2} y={bottom + 50} width={bw * fill} height={8} />
          <line className="gauge-mark" x1={x} x2={x} y1={bottom + 47} y2={bottom + 61} />
          <text className="foot-says" x={x} y={bottom + 74} textAnchor="middle">
            {written}
          </text>
        </>
      )}
      <g className="foot-dots" aria-hidden>
        {Array.from({ length: 10 }, (_, i) => (
          <circle
            key={i}
            className={i < n ? "on" : ""}
            cx={x + (i - 4.5) * dot}
            cy={bottom + 88}
            r={dot * 0.34}
          />
        ))}
      </g>
    </g>
  );
}

/** The control path: smaller, tied to the contact it closes. */
function ControlPath({
  path,
  width,
  picture,
  probes,
  ties,
  onNode,
  onStation,
}: Props & { path: PicturePath; width: number }) {
  const left = 110;
  const right = width - 26;
  const gap = (right - left) / path.stations.length;
  const x = path.nodes.map((_, i) => left + i * gap);
  const scale = scaleFor(path.nodes, 8, 36, 6, true);
  const [name, more] = wrap(path.label, 14);
  return (
    <svg width={width} height={76} role="group" aria-label={words.path(path.label)} className="control">
      <text className="control-name" x={8} y={more ? 14 : 26}>
        {name}
      </text>
      {more && (
        <text className="control-name" x={8} y={28}>
          {more}
        </text>
      )}
      {wrap(ties?.[path.id] ?? "", 15).map((l, i) => (
        <text key={l} className="control-tie" x={8} y={42 + 14 * i}>
          {l}
        </text>
      ))}
      {picture.powered && <Band nodes={path.nodes} x={x} scale={scale} />}
      {picture.powered && <Ghost nodes={path.nodes} x={x} scale={scale} />}
      {path.stations.map((s, i) => {
        const [a, b] = [path.nodes[i]!, path.nodes[i + 1]!];
        const y = (n: PictureNode) => (picture.powered ? scale.y(n.measured ?? n.mid) : 22);
        const solid = a.measured !== undefined && b.measured !== undefined;
        const over = s.measured !== undefined && s.allowed > 0 && judge(s.measured, s.allowed) === "bad";
        const n = Math.round(s.suspect * 10);
        const mid = (x[i]! + x[i + 1]!) / 2;
        return (
          <g key={s.id}>
            <line
              className={`step thin ${solid ? "solid" : "open"} ${over ? "bad" : ""}`}
              x1={x[i]}
              y1={y(a)}
              x2={x[i + 1]}
              y2={y(b)}
            />
            <g
              {...press(() => onStation(s.id))}
              className="foot"
              aria-label={words.whatItIsAndWhat(
                s.label,
                s.open_at === "open" && picture.powered ? words.open : "",
              )}
            >
              <rect className="hit" x={mid - gap / 2 + 10} y={40} width={gap - 20} height={36} />
              {wrap(
                s.label + (s.open_at === "open" && picture.powered ? words.open : ""),
                Math.max(Math.floor(gap / 7.4), 9),
              ).map((l, k, all) => (
                <Fragment key={l}>
                  <text
                    className={`foot-name small ${over ? "over" : ""}`}
                    x={mid}
                    y={(all.length > 1 ? 49 : 56) + k * 12}
                    textAnchor="middle"
                  >
                    {l}
                  </text>{" "}
                </Fragment>
              ))}
              <g className="foot-dots" aria-hidden>
                {Array.from({ length: 10 }, (_, k) => (
                  <circle key={k} className={k < n ? "on" : ""} cx={mid - 36 + k * 8} cy={71} r={2.8} />
                ))}
              </g>
            </g>
          </g>
        );
      })}
      {path.nodes.map((n, i) => {
        const y = picture.powered ? scale.y(n.measured ?? n.mid) : 22;
        const flag = probes?.red === n.id ? "red" : probes?.black === n.id ? "black" : null;
        // The ends stand on the main path already.
        const inner =
          (i > 0 && i < path.nodes.length - 1) ||
          !picture.paths.some((p) => p !== path && p.nodes.some((x) => x.id === n.id));
        if (n.hidden) return null;
        return (
          <g
            key={n.id}
            {...press(() => onNode(n.id))}
            className="node"
            aria-label={words.putAProbeHereWithBoolean(
              [
                `${n.label} (${n.place})`,
                n.measured !== undefined && picture.powered && inner && fixed(n.measured, 2),
                inner && flag,
              ]
                .filter(Boolean)
                .join(" "),
            )}
          >
            <title>{`${n.label} (${n.place})`}</title> <circle className="hit" cx={x[i]} cy={y} r={18} />
            <circle className={n.measured !== undefined ? "dot measured" : "dot"} cx={x[i]} cy={y} r={4} />
            {n.measured !== undefined && picture.powered && inner && (
              <text className="volts small" x={x[i]! + 8} y={y - 6}>
                {fixed(n.measured, 2)}
              </text>
            )}{" "}
            {flag && inner && (
              <g className={`probe ${flag}`} aria-hidden>
                <path d={`M${x[i]! - 7},${Math.max(y - 20, 2)} h14 l-7,13 z`} />
                <text x={x[i]! - 12} y={Math.max(y - 9, 12)} textAnchor="end">
                  {flag}
                </text>
              </g>
            )}
          </g>
        );
      })}
    </svg>
  );
}
