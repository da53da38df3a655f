import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ConfigProvider } from "antd";
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { Navigate, Route, Routes } from "react-router";
import { api, must, Refused } from "../api/client";
import { Board } from "../board/Board";
import { forgetAll, keepMe, keptMe } from "../offline/keep";
import { flush, reach, watch } from "../offline/sync";
import { Boundary } from "./Boundary";
import { AppContext } from "./context";
import { SignIn } from "./SignIn";
import { keepMode, storedMode, themeFor, type Mode } from "./theme";

const JobFrame = lazy(() => import("../job/JobFrame"));
const Circuits = lazy(() => import("../circuits/Circuits"));
const Training = lazy(() => import("../train/Training"));
const Attempt = lazy(() => import("../train/Attempt"));
const Logbook = lazy(() => import("../logbook/Logbook"));
const MachineHistory = lazy(async () => ({
  default: (await import("../logbook/Logbook")).MachineHistory,
}));
const Codes = lazy(() => import("../codes/Codes"));
const Instruments = lazy(() => import("../instruments/Instruments"));
const Start = lazy(() => import("../start/Start"));

/** The session, the theme and the addresses of all views. */
export function App() {
  const [mode, setModeState] = useState<Mode>(storedMode);
  const client = useQueryClient();
  const me = useQuery({
    queryKey: ["me"],
    queryFn: async () => {
      try {
        const me = await reach(must(api.GET("/api/session")));
        void keepMe(me);
        return me;
      } catch (e) {
        // Without a connection, whoever was signed in here last still is.
        const kept = e instanceof Refused && e.status === 0 ? await keptMe() : undefined;
        if (kept) return kept;
        throw e;
      }
    },
    staleTime: Infinity,
  });
  const [expired, setExpired] = useState(false);

  // A session that ends while something is typed: the sign-in comes on top, the page stays as it is.
  useEffect(() => {
    const check = (e: unknown) => {
      if (e instanceof Refused && e.status === 401) setExpired(true);
    };
    const q = client.getQueryCache().subscribe((ev) => {
      if (
        ev.type === "updated" &&
        ev.action.type === "error" &&
        (ev.query.queryKey as readonly unknown[])[0] !== "me"
      )
        check(ev.action.error);
    });
    const m = client.getMutationCache().subscribe((ev) => {
      if (
        ev.type === "updated" &&
        ev.action.type === "error" &&
        ev.mutation.options.mutationKey?.[0] !== "sign-in"
      )
        check(ev.action.error);
    });
    return () => {
      q();
      m();
    };
  }, [client]);

  const signOut = useMutation({
    mutationFn: () => must(api.DELETE("/api/session")),
    onSuccess: async () => {
      await forgetAll();
      client.clear();
      window.location.assign("/");
    },
  });
  // What others change shows at once; what waited here is sent when the server is back.
  const name = me.data?.name;
  useEffect(() => {
    if (!name) return;
    const renew = (jobs: string[]) => {
      for (const id of jobs)
        for (const of of ["job", "strip", "proof"]) void client.invalidateQueries({ queryKey: [of, id] });
      void client.invalidateQueries({ queryKey: jobs.length ? ["board"] : undefined });
    };
    const unwatch = watch(name, renew, () => setExpired(true));
    const live = new EventSource("/api/events");
    let timer: ReturnType<typeof setTimeout> | undefined;
    const changed = new Set<string>();
    live.addEventListener("job", (ev: MessageEvent<string>) => {
      changed.add((JSON.parse(ev.data) as { id: string }).id);
      clearTimeout(timer);
      timer = setTimeout(() => {
        renew([...changed]);
        changed.clear();
      }, 250);
    });
    return () => {
      unwatch();
      live.close();
      clearTimeout(timer);
    };
  }, [name, client]);
  const state = useMemo(
    () =>
      me.data && {
        me: me.data,
        mode,
        setMode: (m: Mode) => {
          keepMode(m);
          setModeState(m);
        },
        signOut: () => signOut.mutate(),
        mayWrite: me.data.role !== "counter",
      },
    [me.data, mode, signOut],
  );

  return (
    <ConfigProvider theme={themeFor(mode)} button={{ autoInsertSpace: false }} wave={{ disabled: true }}>
      {me.isPending ? (
        <p className="quiet centred">Opening the workshop …</p>
      ) : !state ? (
        <SignIn />
      ) : (
        <AppContext value={state}>
          <Boundary>
            <Suspense fallback={<p className="quiet centred">One moment …</p>}>
              <Routes>
                <Route path="/" element={<Board />} />
                <Route path="/start" element={<Start />} />
                <Route path="/circuits" element={<Circuits />} />
                <Route path="/codes" element={<Codes />} />
                <Route path="/instruments" element={<Instruments />} />
                <Route path="/training" element={<Training />} />
                <Route path="/training/:id" element={<Attempt key="attempt" />} />
                <Route path="/logbook" element={<Logbook />} />
                <Route path="/machines/:id" element={<MachineHistory />} />
                <Route path="/jobs/:id/*" element={<JobFrame />} />
                <Route path="*" element={<Navigate to="/" replace />} />
              </Routes>
            </Suspense>
          </Boundary>
          {expired && (
            <div className="over" role="dialog" aria-label="Sign in again">
              <SignIn
                again
                onDone={() => {
                  setExpired(false);
                  void flush();
                }}
              />
            </div>
          )}
        </AppContext>
      )}
    </ConfigProvider>
  );
}
