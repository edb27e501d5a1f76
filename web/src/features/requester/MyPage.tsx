import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import { useDesk, useTicket } from "../../api/hooks";
import type { Asked, AskedByMe } from "../../api/types";
import { Button, Input, Loading, Trouble } from "../../ui/kit";
import { late } from "../../ui/late";
import { exact, moment } from "../../ui/time";
import { useNow } from "../../ui/useNow";
import { AskedCards } from "../ticket/AskedCards";
import { SolvedOrNot } from "../ticket/SolvedOrNot";
import { beginDraft } from "../tickets/draft";
import { KnownAnswers } from "../tickets/KnownAnswers";
import { nextWords, stations } from "./standing";

const RaiseDialog = late(() => import("../tickets/RaiseDialog").then((m) => m.RaiseDialog));

/** The page of those who ask (O4): what they are asked, what they can ask, what they asked and where it stands. */
export function MyPage() {
  const asked = useQuery({ queryKey: ["asked"], queryFn: () => api.get<AskedByMe>("/api/asked") });
  const desk = useDesk();
  if (asked.isPending) return <Loading what="your page" />;
  if (asked.isLoadingError)
    return (
      <div className="p-6">
        <Trouble error={asked.error} onRetry={() => asked.refetch()} />
      </div>
    );
  const own = new Set(asked.data.open.map((a) => a.number));
  const items = [...(desk.data?.items ?? []), ...(desk.data?.covered ?? []).map((c) => c.item)];
  const others = [...new Set(items.map((i) => i.ticket))].filter((t) => !own.has(t));
  // What waits for them comes first, whenever they asked it.
  const open = [...asked.data.open.filter(waitsForMe), ...asked.data.open.filter((a) => !waitsForMe(a))];
  return (
    <div className="flex-1 overflow-auto">
      <div className="mx-auto grid max-w-6xl gap-x-10 gap-y-8 p-5 md:p-8 lg:grid-cols-2">
        <Ask />
        <div className="flex min-w-0 flex-col gap-4">
          {others.length > 0 && (
            <section aria-label="You are asked">
              <h2 className="mb-1 font-bold">You are asked</h2>
              {others.map((number) => (
                <AskedElsewhere key={number} number={number} />
              ))}
            </section>
          )}
          <section aria-label="What you asked" className="flex flex-col gap-3">
            <h2 className="font-bold">What you asked</h2>
            {open.length === 0 && (
              <p className="text-ink-2">
                {asked.data.ended.length === 0
                  ? "Nothing yet. Say on this page what you need; where it stands is then told here."
                  : "Nothing of it is open."}
              </p>
            )}
            {open.map((line) => (
              <OpenLine key={line.number} line={line} />
            ))}
            {asked.data.moreOpen && (
              <p>
                These are the newest.{" "}
                <Link to="/tickets" className="link">
                  All that you asked
                </Link>
              </p>
            )}
          </section>
          {asked.data.ended.length > 0 && (
            <section aria-label="Over">
              <h2 className="mb-1 text-sm font-semibold text-ink-2">Over</h2>
              <ul>
                {asked.data.ended.map((line) => (
                  <EndedLine key={line.number} line={line} />
                ))}
              </ul>
              <p className="mt-2 text-sm">
                <Link to="/tickets" search={{ q: "open=false" }} className="link">
                  All that is over
                </Link>
              </p>
            </section>
          )}
        </div>
      </div>
    </div>
  );
}

const waitsForMe = (line: Asked) => line.asksMe || line.maySay.includes("solved");

/** A line in one's own words: what is known already answers it, or it is asked. */
function Ask() {
  const [text, setText] = useState("");
  const [raising, setRaising] = useState(false);
  const words = useDeferredValue(text);
  const begin = (kind: "incident" | "request") => {
    beginDraft({ kind, title: text });
    setRaising(true);
  };
  return (
    <section aria-label="Ask" className="min-w-0 self-start lg:sticky lg:top-8">
      <h1 className="mb-3 text-2xl font-bold">What can we do for you?</h1>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          begin("request");
        }}
      >
        <Input
          label="Say it in your own words"
          value={text}
          maxLength={500}
          onChange={(e) => setText(e.target.value)}
          placeholder="The drawings of berth 3, for a contractor"
        />
        <div className="mt-3 flex flex-wrap gap-2">
          <Button look="primary" type="submit">
            I need something
          </Button>
          <Button onClick={() => begin("incident")}>Something does not work</Button>
        </div>
      </form>
      <div className="mt-4">
        <KnownAnswers text={words} service="" onHelped={() => setText("")} />
      </div>
      {raising && <RaiseDialog open onClose={() => setRaising(false)} />}
    </section>
  );
}

/** What is asked of them on a ticket that is not theirs. Keys press nothing here: several matters stand on one page. */
function AskedElsewhere({ number }: { number: string }) {
  const ticket = useTicket(number);
  if (!ticket.data) return null;
  return (
    <div className="mb-3">
      <Link to="/tickets/$number" params={{ number }} className="link text-sm">
        {number} · {ticket.data.title}
      </Link>
      <AskedCards ticket={ticket.data} keys={false} bare />
    </div>
  );
}

function OpenLine({ line }: { line: Asked }) {
  const now = useNow();
  const ticket = useTicket(line.asksMe ? line.number : undefined);
  return (
    <article aria-label={line.title} className="rounded-xl border border-hairline bg-sheet p-4">
      <div className="flex items-baseline justify-between gap-3">
        <Link
          to="/tickets/$number"
          params={{ number: line.number }}
          className="min-w-0 font-semibold wrap-anywhere hover:underline"
        >
          {line.title}
        </Link>
        <span className="shrink-0 text-sm text-ink-2">{line.number}</span>
      </div>
      <Stations line={line} />
      {nextWords(line, (at) => moment(at, now)).map((words) => (
        <p key={words}>{words}</p>
      ))}
      <p className="text-sm text-ink-2">
        asked <span title={exact(line.createdAt)}>{moment(line.createdAt, now)}</span>
        {line.restoreDue && (
          <>
            {" "}
            · promised by <span title={exact(line.restoreDue)}>{moment(line.restoreDue, now)}</span>
            {new Date(line.restoreDue).getTime() < now && <strong className="text-late"> · late</strong>}
          </>
        )}
      </p>
      {line.answer && <Answer text={line.answer} />}
      <SolvedOrNot ticket={line.number} maySay={line.maySay} />
      {ticket.data && (
        <div className="mt-3">
          <AskedCards ticket={ticket.data} keys={false} bare />
        </div>
      )}
    </article>
  );
}

function EndedLine({ line }: { line: Asked }) {
  const now = useNow();
  return (
    <li className="border-b border-hairline py-2">
      <p>
        <Link to="/tickets/$number" params={{ number: line.number }} className="link">
          {line.title}
        </Link>{" "}
        <span className="text-sm text-ink-2" title={exact(line.updatedAt)}>
          · {nextWords(line, (at) => moment(at, now)).join(" ")}
        </span>
      </p>
      {line.answer && <Answer text={line.answer} />}
      <SolvedOrNot ticket={line.number} maySay={line.maySay} />
    </li>
  );
}

const Answer = ({ text }: { text: string }) => (
  <p className="mt-1 line-clamp-3 whitespace-pre-wrap text-ink-2 wrap-anywhere">“{text}”</p>
);

/** How far it is, as stations on a line: the words say it too. */
function Stations({ line }: { line: Asked }) {
  const s = stations(line);
  if (!s) return null;
  return (
    <ol aria-label="Where it stands" className="my-3 flex">
      {s.names.map((name, i) => (
        <li
          key={name}
          aria-current={i === s.at ? "step" : undefined}
          className="relative min-w-0 flex-1 last:flex-none"
        >
          {i < s.names.length - 1 && (
            <span
              aria-hidden
              className={`absolute top-[6px] right-0 left-0 h-[3px] ${i < s.at ? "bg-pine" : "bg-hairline"}`}
            />
          )}
          <span
            aria-hidden
            className={`relative block size-[15px] rounded-full border-[3px] ${
              i < s.at ? "border-pine bg-pine" : i === s.at ? "border-pine bg-sheet" : "border-hairline bg-sheet"
            }`}
          />
          <span className={`mt-1 block text-xs ${i === s.at ? "font-semibold" : "text-ink-2"}`}>
            {name}
            {i === s.at && line.state === "waiting" && ", waiting"}
          </span>
        </li>
      ))}
    </ol>
  );
}
