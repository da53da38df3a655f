import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { ConfigProvider } from "antd";
import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { api, must, Refused, type Me, type Preferences } from "../api/client";
import Board from "../board/Board";
import { forgetAll, keepMe, keptMe } from "../offline/keep";
import { listen } from "../offline/live";
import { flush, reach, watch } from "../offline/sync";
import { Boundary } from "./Boundary";
import { AppContext } from "./context";
import { Frame } from "./Frame";
import { writeLike } from "../shared/written";
import { keepMode, storedMode, themeFor, type Mode } from "./theme";
import * as words from "./words";

const JobFrame = lazy(() => import("../job/JobFrame"));
const Circuits = lazy(() => import("../circuits/Circuits"));
const Training = lazy(() => import("../train/Training"));
const Attempt = lazy(() => import("../train/Attempt"));
const Logbook = lazy(() => import("../logbook/Logbook"));
const Machines = lazy(() => import("../machines/Machines"));
const MachinePage = lazy(() => import("../machines/MachinePage"));
const Parts = lazy(() => import("../logbook/Parts"));
const Codes = lazy(() => import("../codes/Codes"));
const Instruments = lazy(() => import("../instruments/Instruments"));
const SignIn = lazy(async () => ({ default: (await import("../people/SignIn")).SignIn }));
// What an installation or a person meets once is not fetched by everybody.
const Join = lazy(async () => ({ default: (await import("../people/Join")).Join }));
const SetUp = lazy(async () => ({ default: (await import("../people/SetUp")).SetUp }));
const People = lazy(() => import("../people/People"));
const You = lazy(() => import("../people/You"));
const Settings = lazy(() => import("../settings/Settings"));
const Start = lazy(() => import("../start/Start"));

/** The session, the theme and the addresses of all views. */
export function App() {
  const [here, setHere] = useState<Mode>(storedMode);
  const client = useQueryClient();
  const me = useQuery({
    queryKey: ["me"],
    queryFn: async () => {
      try {
        const who = await reach(must(api.GET("/api/session")));
        writeLike(who.workshop);
        return who;
      } catch (e) {
        // Without a connection, whoever was signed in here last still is.
        const kept = e instanceof Refused && e.status === 0 ? await keptMe() : undefined;
        if (kept) {
          writeLike(kept.workshop);
          return kept;
        }
        throw e;
      }
    },
    staleTime: Infinity,
  });
  const [expired, setExpired] = useState(false);
  // However somebody came in, they are still known here when the connection is gone.
  const signedIn = me.data;
  useEffect(() => {
    if (signedIn) void keepMe(signedIn);
  }, [signedIn]);
  const joining = useLocation().pathname === "/join";
  // An installation that nobody has set up yet has nobody to sign in.
  const setup = useQuery({
    queryKey: ["setup"],
    queryFn: () => must(api.GET("/api/setup")),
    enabled: me.error instanceof Refused && me.error.status === 401,
    staleTime: Infinity,
  });

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
  const who = me.data?.id;
  const name = me.data?.name;
  useEffect(() => {
    if (!who || !name) return;
    const renew = (jobs: string[]) => {
      for (const id of jobs)
        for (const of of ["job", "path", "strip", "proof", "terms", "compare"])
          void client.invalidateQueries({ queryKey: [of, id] });
      void client.invalidateQueries({ queryKey: jobs.length ? ["board"] : undefined });
    };
    const unwatch = watch({ id: who, name }, renew, () => setExpired(true));
    let timer: ReturnType<typeof setTimeout> | undefined;
    const changed = new Set<string>();
    const end = listen(
      (id) => {
        changed.add(id);
        clearTimeout(timer);
        timer = setTimeout(() => {
          renew([...changed]);
          changed.clear();
        }, 250);
      },
      () => renew([]),
    );
    return () => {
      unwatch();
      end();
      clearTimeout(timer);
    };
  }, [who, name, client]);
  const keepLikes = useMutation({
    mutationFn: (body: Preferences) => must(api.PUT("/api/session/preferences", { body })),
  });
  const keepLike = keepLikes.mutate;
  const like = useCallback(
    (p: Partial<Preferences>) => {
      const now = client.getQueryData<Me>(["me"]);
      if (!now) return;
      const preferences = { ...now.preferences, ...p };
      client.setQueryData(["me"], { ...now, preferences });
      keepLike(preferences);
    },
    [client, keepLike],
  );
  // Kept with the person: another device, and whoever signs in here after them, look as each likes it.
  const likes = me.data?.preferences;
  const mode: Mode = likes?.dark === undefined ? here : likes.dark ? "dark" : "light";
  useEffect(() => keepMode(mode), [mode]);
  useEffect(() => {
    document.documentElement.dataset.text = likes?.text ?? "normal";
    document.documentElement.dataset.hand = likes?.left_hand ? "left" : "right";
  }, [likes?.text, likes?.left_hand]);
  const state = useMemo(
    () =>
      me.data && {
        me: me.data,
        mode,
        setMode: (m: Mode) => {
          setHere(m);
          like({ dark: m === "dark" });
        },
        like,
        signOut: () => signOut.mutate(),
        mayWrite: me.data.rights.includes("work"),
        mayManage: me.data.rights.includes("manage"),
      },
    [me.data, mode, signOut, like],
  );

  return (
    <ConfigProvider theme={themeFor(mode)} button={{ autoInsertSpace: false }} wave={{ disabled: true }}>
      {me.isPending || setup.isLoading ? (
        <p className="quiet centred">{words.openingTheWorkshop}</p>
      ) : joining || (!state && setup.data?.needed) ? (
        <Suspense fallback={<p className="quiet centred">{words.oneMoment}</p>}>
          {joining ? <Join /> : <SetUp />}
        </Suspense>
      ) : !state ? (
        <Suspense fallback={<p className="quiet centred">{words.oneMoment}</p>}>
          <SignIn />
        </Suspense>
      ) : (
        <AppContext value={state}>
          <Frame>
            <Boundary>
              <Suspense fallback={<p className="quiet centred">{words.oneMoment}</p>}>
                <Routes>
                  <Route path="/" element={<Board />} />
                  <Route path="/start" element={<Start />} />
                  <Route path="/circuits" element={<Circuits />} />
                  <Route path="/codes" element={<Codes />} />
                  <Route path="/instruments" element={<Instruments />} />
                  <Route path="/you" element={<You />} />
                  {state.mayManage && <Route path="/people" element={<People />} />}
                  {state.mayManage && <Route path="/settings" element={<Settings />} />}
                  <Route path="/training" element={<Training />} />
                  <Route path="/training/:id" element={<Attempt key="attempt" />} />
                  <Route path="/logbook" element={<Logbook />} />
                  <Route path="/parts" element={<Parts />} />
                  <Route path="/machines" element={<Machines />} />
                  <Route path="/machines/:id" element={<MachinePage />} />
                  <Route path="/jobs/:id/*" element={<JobFrame />} />
                  <Route path="*" element={<Navigate to="/" replace />} />
                </Routes>
              </Suspense>
            </Boundary>
          </Frame>
          {expired && (
            <dialog
              className="over"
              role="dialog"
              aria-label={words.signInAgain}
              ref={(el) => {
                if (el && !el.open) el.showModal();
              }}
              onCancel={(e) => e.preventDefault()} // what is behind it needs somebody signed in
            >
              <Suspense>
                <SignIn
                  again
                  onDone={() => {
                    setExpired(false);
                    void flush();
                  }}
                />
              </Suspense>
            </dialog>
          )}
        </AppContext>
      )}
    </ConfigProvider>
  );
}
