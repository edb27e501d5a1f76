import { useQuery, useQueryClient } from "@tanstack/react-query";
import { lazy, type ReactNode, Suspense, useEffect } from "react";
import { api, setCsrf, useSignedOut } from "../../api/client";
import { listen } from "../../api/live";
import type { Entrance, Session } from "../../api/types";
import { Loading, Trouble } from "../../ui/kit";
import { SessionContext } from "./session";

const SetUp = lazy(() => import("./SetUp").then((m) => ({ default: m.SetUp })));
const SignInAgain = lazy(() => import("./SignInAgain").then((m) => ({ default: m.SignInAgain })));
const SignIn = lazy(() => import("./SignIn").then((m) => ({ default: m.SignIn })));

/** Lets in who is signed in; shows sign-in or set-up to others. */
export function SessionGate({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const entrance = useQuery({
    queryKey: ["entrance"],
    queryFn: () => api.get<Entrance>("/api/entrance"),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { out } = useSignedOut();
  const session = entrance.data?.session;
  if (session) setCsrf(session.csrf);

  useEffect(() => (session ? listen(queries) : undefined), [queries, session]);

  if (entrance.isPending) return <Loading what="Dastur" />;
  if (entrance.isLoadingError) {
    return (
      <main className="mx-auto max-w-lg p-8">
        <Trouble error={entrance.error} onRetry={() => entrance.refetch()} />
      </main>
    );
  }
  const signedIn = (s: Session) => {
    setCsrf(s.csrf);
    queries.removeQueries({ predicate: (q) => q.queryKey[0] !== "entrance" });
    queries.setQueryData<Entrance>(["entrance"], { ...entrance.data, needsSetup: false, session: s });
  };
  /** Whoever made the first account is led on. */
  const begun = (s: Session) => {
    window.history.replaceState(null, "", "/begin");
    signedIn(s);
  };
  if (!session) {
    return (
      <Suspense>
        {entrance.data.needsSetup ? <SetUp onDone={begun} /> : <SignIn entrance={entrance.data} onDone={signedIn} />}
      </Suspense>
    );
  }
  const again = (s: Session) => {
    setCsrf(s.csrf);
    useSignedOut.setState({ out: false });
    queries.setQueryData<Entrance>(["entrance"], { ...entrance.data, session: s });
    queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "entrance" });
  };
  const signOut = async () => {
    await api.delete("/api/session").catch(() => undefined);
    window.location.assign("/");
  };
  return (
    <SessionContext value={{ session, demo: entrance.data.demo, standins: entrance.data.standins, signOut }}>
      {children}
      {out && (
        <Suspense>
          <SignInAgain session={session} demo={entrance.data.demo} onDone={again} />
        </Suspense>
      )}
    </SessionContext>
  );
}
