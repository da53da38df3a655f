import { Button } from "antd";
import { useBound } from "../app/keys";
import { useCallback, useEffect, useRef, useState } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { useWidth } from "../shared/hooks";
import type { Engine, Zoom } from "./engine";
import * as words from "./words";
import { fixed } from "../shared/written";

const ink = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** The trace: wheel, drag and keys zoom; each view is cut anew from the samples, so that no peak is lost. */
export function Chart({
  engine,
  total,
  shift,
  stamp,
}: {
  engine: Engine;
  total: number;
  /** Humps by which the other trace is turned; undefined where there is none. */
  shift: number | undefined;
  stamp: string;
}) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const host = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const marks = useRef<Zoom | null>(null);
  const [view, setView] = useState<{ stamp: string; from: number; to: number }>({
    stamp: "",
    from: 0,
    to: 0,
  });
  const now = view.stamp === stamp ? view : { from: 0, to: total };
  const [cursors, setCursors] = useState<number[]>([]);
  const range = useRef(now);
  useEffect(() => {
    range.current = now;
  });
  const move = useCallback(
    (from: number, to: number) => {
      const span = Math.min(Math.max(to - from, total * 1e-7, 1e-5), total);
      const a = Math.min(Math.max(from, 0), total - span);
      setView({ stamp, from: a, to: a + span });
    },
    [stamp, total],
  );
  const zoom = useCallback(
    (f: number, at = 0.5) => {
      const { from, to } = range.current;
      const x = from + at * (to - from);
      move(x - (x - from) * f, x + (to - x) * f);
    },
    [move],
  );
  // Made once per width: the data follow the view.
  useEffect(() => {
    if (!host.current || width === 0) return;
    const line = (stroke: string, label: string): uPlot.Series => ({
      label,
      stroke,
      width: 1,
      points: { show: false },
    });
    const u = new uPlot(
      {
        width,
        height: 300,
        legend: { show: false },
        cursor: { drag: { x: true, y: false, setScale: false } },
        scales: { x: { time: false } },
        axes: [
          { label: words.seconds, stroke: ink("--grey"), grid: { stroke: ink("--line") }, labelSize: 20 },
          { label: words.amperes, stroke: ink("--grey"), grid: { stroke: ink("--line") }, labelSize: 20 },
        ],
        series: [
          {},
          line(ink("--ink"), "least"),
          line(ink("--ink"), "greatest"),
          line(ink("--copper-shape"), words.otherLeast),
          line(ink("--copper-shape"), words.otherGreatest),
        ],
        bands: [
          { series: [2, 1], fill: ink("--ink") },
          { series: [4, 3], fill: ink("--copper-shape") },
        ],
        hooks: {
          setSelect: [
            (s) => {
              if (s.select.width > 8) {
                const a = s.posToVal(s.select.left, "x");
                const b = s.posToVal(s.select.left + s.select.width, "x");
                move(a, b);
              }
              s.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
            },
          ],
          drawClear: [
            (s) => {
              const m = marks.current;
              if (!m) return;
              const { left, top, width: w, height: h } = s.bbox;
              s.ctx.save();
              s.ctx.beginPath();
              s.ctx.rect(left, top, w, h);
              s.ctx.clip();
              s.ctx.fillStyle = "rgba(194,122,69,0.28)";
              for (const t of m.weak) {
                const a = s.valToPos(t - m.hump_s / 2, "x", true);
                const b = s.valToPos(t + m.hump_s / 2, "x", true);
                s.ctx.fillRect(a, top, Math.max(b - a, 1), h);
              }
              s.ctx.strokeStyle = ink("--grey");
              s.ctx.setLineDash([4, 4]);
              for (const t of m.revolutions) {
                const a = Math.round(s.valToPos(t, "x", true)) + 0.5;
                s.ctx.beginPath();
                s.ctx.moveTo(a, top);
                s.ctx.lineTo(a, top + h);
                s.ctx.stroke();
              }
              s.ctx.restore();
            },
          ],
        },
      },
      [[0], [0], [0], [0], [0]] as unknown as uPlot.AlignedData,
      host.current,
    );
    plot.current = u;
    const over = u.over;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      const at = e.offsetX / over.clientWidth;
      if (e.shiftKey || Math.abs(e.deltaX) > Math.abs(e.deltaY)) {
        const { from, to } = range.current;
        const d = ((e.deltaX || e.deltaY) / 500) * (to - from);
        move(from + d, to + d);
      } else zoom(e.deltaY > 0 ? 1.25 : 0.8, at);
    };
    const tap = (e: MouseEvent) => {
      if (e.detail !== 1 || Math.abs(u.select.width) > 4) return;
      const t = u.posToVal(e.offsetX, "x");
      setCursors((c) => (c.length >= 2 ? [t] : [...c, t]));
    };
    // One finger moves the trace, two zoom it about the place between them.
    let last: { x: number; apart: number; n: number } | null = null;
    const fingers = (e: TouchEvent) => {
      const r = over.getBoundingClientRect();
      const xs = [...e.touches].map((t) => (t.clientX - r.left) / r.width);
      const n = Math.min(xs.length, 2);
      return {
        x: n === 2 ? (xs[0]! + xs[1]!) / 2 : (xs[0] ?? 0),
        apart: n === 2 ? Math.abs(xs[0]! - xs[1]!) : 0,
        n,
      };
    };
    const touch = (e: TouchEvent) => {
      const f = fingers(e);
      if (last && last.n === f.n && e.type === "touchmove") {
        e.preventDefault();
        const { from, to } = range.current;
        const scale = f.n === 2 && f.apart > 0.02 ? last.apart / f.apart : 1;
        const held = from + last.x * (to - from);
        const span = (to - from) * scale;
        const a = held - f.x * span;
        range.current = { from: a, to: a + span };
        move(a, a + span);
      }
      last = f.n > 0 ? f : null;
    };
    const gestures = ["touchstart", "touchmove", "touchend", "touchcancel"] as const;
    for (const g of gestures) over.addEventListener(g, touch, { passive: false });
    over.addEventListener("wheel", wheel, { passive: false });
    over.addEventListener("click", tap);
    return () => {
      over.removeEventListener("wheel", wheel);
      for (const g of gestures) over.removeEventListener(g, touch);
      u.destroy();
      plot.current = null;
    };
  }, [width, move, zoom]);
  useEffect(() => {
    if (width === 0) return;
    let gone = false;
    const cols = Math.max(Math.floor(width), 100);
    void Promise.all([
      engine.zoom("one", now.from, now.to, cols),
      shift === undefined ? [] : engine.alongside(shift, now.from, now.to, cols),
    ]).then(
      ([z, other]) => {
        const u = plot.current;
        if (gone || !u) return;
        marks.current = z;
        const xs = z.points.map((p) => p.t);
        // Both are cut into columns of one length, which need not begin at the same samples.
        const step = (now.to - now.from) / cols;
        const column = new Map(other.map((p) => [Math.round((p.t - now.from) / step), p]));
        const y = xs.map((t) => column.get(Math.round((t - now.from) / step)) ?? null);
        const pick = (k: "low" | "high") => y.map((p) => p?.[k] ?? null);
        u.setData(
          [
            xs,
            z.points.map((p) => p.low),
            z.points.map((p) => p.high),
            pick("low"),
            pick("high"),
          ] as uPlot.AlignedData,
          false,
        );
        u.batch(() => {
          u.setScale("x", { min: now.from, max: now.to });
          const all = [...z.points, ...other];
          let lo = Infinity;
          let hi = -Infinity;
          for (const p of all) {
            lo = Math.min(lo, p.low);
            hi = Math.max(hi, p.high);
          }
          const pad = (hi - lo) * 0.06 || 1;
          u.setScale("y", { min: lo - pad, max: hi + pad });
        });
      },
      () => {},
    );
    return () => {
      gone = true;
    };
  }, [engine, now.from, now.to, width, shift, stamp]);
  const step = (by: number) => {
    const { from, to } = range.current;
    const d = ((to - from) / 5) * by;
    move(from + d, to + d);
  };
  useBound({
    zoomIn: () => zoom(0.6),
    zoomOut: () => zoom(1.7),
    earlier: () => step(-1),
    later: () => step(1),
    whole: () => move(0, total),
  });
  const [a, b] = cursors;
  return (
    <div className="trace-chart" ref={ref}>
      <div ref={host} role="img" aria-label={words.currentOverTimePlus} />
      <div className="trace-foot">
        <Button onClick={() => zoom(0.6)} aria-label={words.zoomIn}>
          +
        </Button>
        <Button onClick={() => zoom(1.7)} aria-label={words.zoomOut}>
          −
        </Button>
        <Button onClick={() => move(0, total)}>{words.all}</Button>
        <span className="quiet">
          {a === undefined
            ? words.touchTheTraceTo
            : b === undefined
              ? words.cursorAtMs(fixed(a * 1000, 3))
              : words.msApartHz(
                  fixed(Math.abs(b - a) * 1000, 3),
                  fixed(1 / Math.max(Math.abs(b - a), 1e-9), 1),
                )}
        </span>
      </div>
    </div>
  );
}
