// A live display: followed by server-sent events, one instrument at one place at a time.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, must, type Instrument, type Suggestion } from "../api/client";
import { useApp } from "../app/context";
import * as words from "./words";

interface LiveReading {
  value: number;
  over: boolean;
  settled: boolean;
  min: number;
  max: number;
  n: number;
  text: string;
  take: string;
  min_text: string;
  max_text: string;
  mean_text: string;
}

export interface Live {
  reading?: LiveReading;
  problem?: string;
}

/** The meters that can take a measure, and the one chosen for it. */
export function useMeter(measure: string) {
  const list = useQuery({
    queryKey: ["instruments"],
    queryFn: () => must(api.GET("/api/instruments")),
    staleTime: 60_000,
  });
  const key = `corriente.meter.${measure}`;
  const { me, like } = useApp();
  const [chosen, setChosen] = useState<string>();
  // What was chosen here, then what this person reads with anywhere, then what was last used on this device.
  const { meters } = me.preferences;
  const name = chosen ?? meters?.[measure] ?? localStorage.getItem(key) ?? "";
  const fit = (list.data ?? []).filter((v) => v.measures?.includes(measure));
  const meter = fit.find((v) => v.name === name);
  return {
    fit,
    meter,
    choose: (n: string) => {
      localStorage.setItem(key, n);
      setChosen(n);
      like({ meters: { ...meters, [measure]: n } });
    },
  };
}

export type At = Pick<Suggestion, "measure" | "state" | "from" | "to" | "through">;

/** Follows an instrument; undefined follows nothing. */
export function useLive(meter: Instrument | undefined, at: At): Live {
  const [live, setLive] = useState<{ url: string; live: Live }>({ url: "", live: {} });
  const q = new URLSearchParams();
  for (const [k, v] of Object.entries({
    measure: at.measure,
    state: at.state,
    from: at.from,
    to: at.to,
    through: at.through,
  }))
    if (v) q.set(k, v);
  const url = meter?.address ? `/api/instruments/${meter.id}/live?${q}` : "";
  useEffect(() => {
    if (!url) return;
    const es = new EventSource(url);
    es.addEventListener("reading", (ev: MessageEvent<string>) =>
      setLive({ url, live: { reading: JSON.parse(ev.data) as LiveReading } }),
    );
    es.addEventListener("problem", (ev: MessageEvent<string>) =>
      setLive({ url, live: { problem: (JSON.parse(ev.data) as { says: string }).says } }),
    );
    es.onerror = () =>
      setLive({
        url,
        live: { problem: words.theServerDoesNot },
      });
    const sleep = stayAwake();
    return () => {
      es.close();
      sleep();
    };
  }, [url]);
  return live.url === url ? live.live : {};
}

/** The evidence fields that go with a meter: its name, and its leads where ohms are read. */
export const withMeter = (meter: Instrument | undefined, measure: string) =>
  meter
    ? {
        instrument: meter.name,
        leads: measure === "resistance" && meter.leads_ohm > 0 ? words.ohm(meter.leads_ohm) : undefined,
      }
    : {};

/** Keeps the screen on while a reading is followed, both hands at the probes; returns what lets it sleep again. */
function stayAwake(): () => void {
  let lock: WakeLockSentinel | undefined;
  let over = false;
  // A screen that may not be kept on goes off: the reading is there when it comes back.
  const ask = () => {
    if (over || document.visibilityState !== "visible") return;
    void navigator.wakeLock?.request("screen").then(
      (l) => {
        lock = l;
        if (over) void l.release();
      },
      () => {},
    );
  };
  document.addEventListener("visibilitychange", ask);
  ask();
  return () => {
    over = true;
    document.removeEventListener("visibilitychange", ask);
    void lock?.release();
  };
}

let audio: AudioContext | null = null;

/** A short sound: a value was taken. */
export function beep() {
  try {
    audio ??= new AudioContext();
    const o = audio.createOscillator();
    const g = audio.createGain();
    o.frequency.value = 1100;
    g.gain.value = 0.06;
    o.connect(g).connect(audio.destination);
    o.start();
    o.stop(audio.currentTime + 0.07);
  } catch {
    // A device without sound still measures.
  }
}
