import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { api, ProblemError } from "../../api/client";
import type { ChannelsView, ChannelTried } from "../../api/types";
import { Check } from "../../ui/Check";
import { Button, Input, Loading, PageHead, Select, Trouble } from "../../ui/kit";
import { administers, useSession } from "../signin/session";

type ServerView = ChannelsView["mail"]["server"];
type Safety = ServerView["safety"];
/** Which part was kept just now: its fields are read anew then, and it says so. */
type Keeping = { kept: boolean; onKept: () => void };
type At = (field: string) => string | undefined;

const SAFETIES: { value: Safety; label: string; mail: number; mailbox: number }[] = [
  { value: "TLS", label: "TLS from the start", mail: 465, mailbox: 993 },
  { value: "STARTTLS", label: "turns to TLS (STARTTLS), or nothing is said", mail: 587, mailbox: 143 },
  { value: "NONE", label: "in the clear", mail: 25, mailbox: 143 },
];

/** By what people are told and heard: each part is tried before it is kept, and in use from then on (R13). */
export function ChannelsPage() {
  const { session } = useSession();
  const all = useQuery({
    queryKey: ["channels"],
    queryFn: () => api.get<ChannelsView>("/api/channels"),
    enabled: administers(session),
  });
  const [kept, setKept] = useState<keyof ChannelsView>();
  if (!administers(session))
    return <p className="p-6 text-ink-2">Mail and chat are set by administrators. Ask one of them.</p>;
  if (all.isPending) return <Loading what="mail and chat" />;
  if (all.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={all.error} onRetry={() => all.refetch()} />
      </div>
    );
  const now = all.data;
  const keeping = (which: keyof ChannelsView): Keeping => ({ kept: kept === which, onKept: () => setKept(which) });
  return (
    <>
      <PageHead title="Mail and chat" sub="By what people are told, and where they answer" />
      <div className="min-h-0 flex-1 overflow-auto p-5">
        <div className="grid max-w-5xl gap-5 lg:grid-cols-2">
          <MailPart key={`mail ${JSON.stringify(now.mail)}`} now={now.mail} {...keeping("mail")} />
          <MailboxPart key={`mailbox ${JSON.stringify(now.mailbox)}`} now={now.mailbox} {...keeping("mailbox")} />
          <ChatPart key={`chat ${JSON.stringify(now.chat)}`} now={now.chat} {...keeping("chat")} />
          <AddressPart key={`address ${JSON.stringify(now.address)}`} now={now.address} {...keeping("address")} />
        </div>
      </div>
    </>
  );
}

/** One of them: what is typed, a trial of it without keeping it, and how that went. */
function Part({
  title,
  says,
  which,
  here,
  body,
  trial,
  shown,
  kept,
  onKept,
  children,
}: Keeping & {
  title: string;
  says: string;
  which: keyof ChannelsView;
  /** Whether it was set on this page. */
  here: boolean;
  body: unknown;
  /** What the button that tries it says; none where there is nothing to try. */
  trial?: string;
  /** Fields that say themselves what is wrong with them. */
  shown: string[];
  children: (at: At) => ReactNode;
}) {
  const queries = useQueryClient();
  const done = () => queries.invalidateQueries({ queryKey: ["channels"] });
  const save = useMutation({
    mutationFn: () => api.put(`/api/channels/${which}`, body),
    onSuccess: () => {
      onKept();
      return done();
    },
  });
  const back = useMutation({ mutationFn: () => api.delete(`/api/channels/${which}`), onSuccess: done });
  const tried = useMutation({ mutationFn: () => api.post<ChannelTried>(`/api/channels/${which}/try`, body) });
  // What was tried is not what stands there once somebody types on.
  const told = JSON.stringify(body);
  const [triedAs, setTriedAs] = useState<string>();
  const error = tried.error ?? save.error;
  const problem = error instanceof ProblemError ? error.problem : undefined;
  const at: At = (field) => (problem?.where === field ? problem.detail : undefined);
  const busy = save.isPending || tried.isPending || back.isPending;
  return (
    <section aria-label={title} className="rounded-xl border border-hairline bg-sheet p-4">
      <form
        className="flex h-full flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          tried.reset();
          save.mutate();
        }}
      >
        <div>
          <h2 className="font-bold">{title}</h2>
          <p className="text-sm text-ink-2">{says}</p>
        </div>
        {children(at)}
        <div className="mt-auto flex flex-wrap items-center gap-2">
          <Button look="primary" type="submit" disabled={busy}>
            {save.isPending ? "Keeping it…" : "Keep"}
          </Button>
          {trial && (
            <Button
              disabled={busy}
              onClick={() => {
                save.reset();
                setTriedAs(told);
                tried.mutate();
              }}
            >
              {tried.isPending ? "Trying…" : trial}
            </Button>
          )}
          {here ? (
            <Button look="quiet" disabled={busy} onClick={() => back.mutate()}>
              As named at the start
            </Button>
          ) : (
            <span className="text-sm text-ink-2">as named where the application was started</span>
          )}
        </div>
        <div aria-live="polite">
          {tried.data && triedAs === told && (
            <p className={tried.data.worked ? "text-well" : "text-late"}>{tried.data.said}</p>
          )}
          {kept && !tried.data && !error && <p className="text-well">Kept. It is used from now on.</p>}
          {error && !(problem?.where && shown.includes(problem.where)) && <Trouble error={error} />}
          {back.isError && <Trouble error={back.error} />}
        </div>
      </form>
    </section>
  );
}

const SERVER_FIELDS = ["host", "port", "safety", "user", "password"];

/** What is typed of a server. A password is sent when one is typed, and never comes back. */
function useServer(now: ServerView | undefined, what: "mail" | "mailbox") {
  const [server, setServer] = useState({
    host: now?.host ?? "",
    port: String(now?.port ?? (what === "mail" ? 465 : 993)),
    safety: now?.safety ?? ("TLS" as Safety),
    user: now?.user ?? "",
    password: "",
  });
  const set = (change: Partial<typeof server>) => setServer({ ...server, ...change });
  const chosen = (safety: Safety) => {
    const usual = SAFETIES.find((s) => s.value === server.safety)?.[what];
    const next = SAFETIES.find((s) => s.value === safety)?.[what];
    // A port that somebody typed stays; the usual one follows.
    set({ safety, port: server.port === String(usual) ? String(next) : server.port });
  };
  const body = {
    host: server.host,
    port: Number(server.port) || 0,
    safety: server.safety,
    user: server.user.trim() || undefined,
    password: server.password || undefined,
  };
  const fields = (at: At, userNeeded: boolean) => (
    <>
      <div className="grid gap-3 sm:grid-cols-[1fr_90px]">
        <Input
          label="Server"
          required
          value={server.host}
          problem={at("host")}
          onChange={(e) => set({ host: e.target.value })}
        />
        <Input
          label="Port"
          inputMode="numeric"
          required
          value={server.port}
          problem={at("port")}
          onChange={(e) => set({ port: e.target.value })}
        />
      </div>
      <Select
        label="The line"
        value={server.safety}
        options={SAFETIES}
        problem={at("safety")}
        onChange={(v) => chosen(v as Safety)}
      />
      <div className="grid gap-3 sm:grid-cols-2">
        <Input
          label={userNeeded ? "Signs in as" : "Signs in as (blank for nobody)"}
          autoComplete="off"
          value={server.user}
          problem={at("user")}
          onChange={(e) => set({ user: e.target.value })}
        />
        {(userNeeded || server.user.trim() !== "") && (
          <Input
            label="Password"
            type="password"
            autoComplete="new-password"
            value={server.password}
            problem={at("password")}
            onChange={(e) => set({ password: e.target.value })}
            help={
              now?.password ? "There is one. Leave this blank to keep it." : "It is kept encrypted and never shown."
            }
          />
        )}
      </div>
    </>
  );
  return { body, fields };
}

function MailPart({ now, ...keeping }: { now: ChannelsView["mail"] } & Keeping) {
  const server = useServer(now.server, "mail");
  const [from, setFrom] = useState(now.from);
  const [name, setName] = useState(now.name);
  return (
    <Part
      title="Sending mail"
      says="Whoever is asked, called in or told without chat gets a mail from here."
      which="mail"
      {...keeping}
      here={now.here}
      body={{ ...server.body, from, name }}
      trial="Send a mail to me"
      shown={[...SERVER_FIELDS, "from", "name"]}
    >
      {(at) => (
        <>
          {server.fields(at, false)}
          <div className="grid gap-3 sm:grid-cols-2">
            <Input
              label="Sender's address"
              required
              value={from}
              problem={at("from")}
              onChange={(e) => setFrom(e.target.value)}
            />
            <Input label="Sender's name" value={name} problem={at("name")} onChange={(e) => setName(e.target.value)} />
          </div>
        </>
      )}
    </Part>
  );
}

function MailboxPart({ now, ...keeping }: { now: ChannelsView["mailbox"] } & Keeping) {
  const server = useServer(now.server ?? undefined, "mailbox");
  const [used, setUsed] = useState(now.server !== undefined);
  return (
    <Part
      title="Answers by mail"
      says="The sender's mailbox is read, so that people decide and say things by answering a mail."
      which="mailbox"
      {...keeping}
      here={now.here}
      body={used ? { used, ...server.body } : { used, port: 0 }}
      trial={used ? "Look into it" : undefined}
      shown={SERVER_FIELDS}
    >
      {(at) => (
        <>
          <Check label="A mailbox is read" checked={used} onChange={setUsed} />
          {used && server.fields(at, true)}
        </>
      )}
    </Part>
  );
}

function ChatPart({ now, ...keeping }: { now: ChannelsView["chat"] } & Keeping) {
  const [address, setAddress] = useState(now.address ?? "");
  const [token, setToken] = useState("");
  return (
    <Part
      title="Chat"
      says="A server that speaks the Matrix client-server API. People say under their name how they are called there."
      which="chat"
      {...keeping}
      here={now.here}
      body={{ address: address.trim() || undefined, token: token || undefined }}
      trial={address.trim() ? "Ask who we are there" : undefined}
      shown={["address", "token"]}
    >
      {(at) => (
        <>
          <Input
            label="Address (blank for none)"
            placeholder="https://chat.example.org"
            value={address}
            problem={at("address")}
            onChange={(e) => setAddress(e.target.value)}
          />
          {address.trim() !== "" && (
            <Input
              label="Token of Dastur's account"
              type="password"
              autoComplete="new-password"
              value={token}
              problem={at("token")}
              onChange={(e) => setToken(e.target.value)}
              help={now.token ? "There is one. Leave this blank to keep it." : "It is kept encrypted and never shown."}
            />
          )}
        </>
      )}
    </Part>
  );
}

function AddressPart({ now, ...keeping }: { now: ChannelsView["address"] } & Keeping) {
  const [address, setAddress] = useState(now.address ?? "");
  return (
    <Part
      title="Where people reach Dastur"
      says="Links in mails and in chat begin with it."
      which="address"
      {...keeping}
      here={now.here}
      body={{ address }}
      shown={["address"]}
    >
      {(at) => (
        <Input
          label="Address"
          placeholder={window.location.origin}
          value={address}
          problem={at("address")}
          onChange={(e) => setAddress(e.target.value)}
          help={
            address === window.location.origin
              ? "That is where you are now."
              : `You are at ${window.location.origin} now.`
          }
        />
      )}
    </Part>
  );
}
