import type { ButtonHTMLAttributes, InputHTMLAttributes, ReactNode, TextareaHTMLAttributes } from "react";
import { createContext, use, useState } from "react";
import { ProblemError } from "../api/client";
import { BOX, Labelled, type LabelledProps } from "./Labelled";
import { late } from "./late";

export { Labelled } from "./Labelled";
export { Select } from "./Select";

type Look = "primary" | "plain" | "quiet" | "danger";

const LOOKS: Record<Look, string> = {
  primary: "bg-pine text-on-pine border-pine hover:brightness-110",
  plain: "bg-sheet text-ink border-hairline hover:border-ink-2",
  quiet: "bg-transparent text-ink-2 border-transparent hover:text-ink hover:bg-here",
  danger: "bg-sheet text-late border-late hover:bg-selected",
};

/** Around what is over: its buttons can no longer be pressed. */
export const Off = createContext(false);

/** Whether the digits on buttons press them now: of one card on a page, and not in the moment in which it came up. */
export const Digits = createContext(false);

export function Button({
  look = "plain",
  digit,
  className = "",
  children,
  disabled,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; digit?: number }) {
  const off = use(Off);
  const digits = use(Digits);
  return (
    <button
      type="button"
      disabled={disabled || off}
      aria-keyshortcuts={digits && digit !== undefined ? String(digit) : undefined}
      className={`inline-flex items-center gap-2 rounded-lg border px-3 py-1.5 font-semibold text-left disabled:opacity-50 ${LOOKS[look]} ${className}`}
      {...rest}
    >
      {digit !== undefined && (
        <span aria-hidden="true" className={`font-mono text-[11px] ${digits ? "" : "opacity-30"}`}>
          {digit}
        </span>
      )}
      <span>{children}</span>
    </button>
  );
}

export function Input({
  label,
  help,
  problem,
  hideLabel,
  className = "",
  ...rest
}: LabelledProps & InputHTMLAttributes<HTMLInputElement>) {
  return (
    <Labelled label={label} help={help} problem={problem} hideLabel={hideLabel}>
      {(id) => <input id={id} className={`${BOX} ${className}`} aria-invalid={problem !== undefined} {...rest} />}
    </Labelled>
  );
}

export function TextArea({
  label,
  help,
  problem,
  hideLabel,
  className = "",
  ...rest
}: LabelledProps & TextareaHTMLAttributes<HTMLTextAreaElement>) {
  return (
    <Labelled label={label} help={help} problem={problem} hideLabel={hideLabel}>
      {(id) => (
        <textarea id={id} rows={3} className={`${BOX} ${className}`} aria-invalid={problem !== undefined} {...rest} />
      )}
    </Labelled>
  );
}

const DialogBox = late(() => import("./DialogBox").then((m) => m.DialogBox));

export function Dialog({
  open,
  ...rest
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}) {
  return open ? <DialogBox {...rest} /> : null;
}

/** What went wrong. What is not there does not come by trying again: `children` then says where else to go. */
export function Trouble({ error, onRetry, children }: { error: unknown; onRetry?: () => void; children?: ReactNode }) {
  const problem = error instanceof ProblemError ? error.problem : undefined;
  return (
    <div role="alert" className="rounded-lg border border-late bg-sheet p-3">
      <p className="font-semibold text-late">{problem?.title ?? "Something went wrong here"}</p>
      <p className="mt-0.5">{problem?.detail ?? "Load the page again. If it stays so, tell those who run Dastur."}</p>
      {problem?.status === 404 && children ? (
        <p className="mt-2">{children}</p>
      ) : (
        onRetry && (
          <Button className="mt-2" onClick={onRetry}>
            Try again
          </Button>
        )
      )}
    </div>
  );
}

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-6 text-ink-2">
      Loading {what}…
    </p>
  );
}

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="p-8 text-ink-2">
      <p className="text-base font-semibold text-ink">{title}</p>
      {children && <div className="mt-1 max-w-prose">{children}</div>}
    </div>
  );
}

/** The bar on top of a page: its name, what else is to say, what can be done. */
export function PageHead({ title, sub, children }: { title: ReactNode; sub?: ReactNode; children?: ReactNode }) {
  return (
    <header className="flex min-h-16 shrink-0 flex-wrap items-start justify-between gap-x-6 gap-y-2 border-b border-hairline bg-raised px-5 py-3 md:flex-nowrap">
      <div className="min-w-0 flex-1 basis-full md:basis-0">
        <h1
          className={`text-xl font-bold wrap-anywhere ${typeof title === "string" ? "line-clamp-3" : ""}`}
          title={typeof title === "string" && title.length > 120 ? title : undefined}
        >
          {title}
        </h1>
        {sub && <div className="mt-0.5 text-ink-2 wrap-anywhere">{sub}</div>}
      </div>
      <div className="flex min-w-0 flex-wrap items-center gap-2 md:shrink-0">{children}</div>
    </header>
  );
}

export function Chip({ children, tone = "plain" }: { children: ReactNode; tone?: "plain" | "late" | "soon" | "well" }) {
  const tones = {
    plain: "border-hairline text-ink-2",
    late: "border-late text-late",
    soon: "border-soon text-soon",
    well: "border-well text-well",
  };
  return (
    <span className={`inline-block rounded-full border bg-sheet px-2.5 py-0.5 text-xs ${tones[tone]}`}>{children}</span>
  );
}

/** A text of this many characters or lines is shown whole. */
const SHORT = { characters: 700, lines: 12 };

/** A text that somebody wrote: kept as written, and when it is long begun only, so that it pushes nothing else away. */
export function LongText({ text, className = "" }: { text: string; className?: string }) {
  const [whole, setWhole] = useState(false);
  const lines = text.split("\n");
  const long = text.length > SHORT.characters || lines.length > SHORT.lines;
  const begun = lines.slice(0, SHORT.lines).join("\n").slice(0, SHORT.characters);
  return (
    <div className={`whitespace-pre-wrap wrap-anywhere ${className}`}>
      {long && !whole ? `${begun}…` : text}
      {long && (
        <button type="button" className="link ml-2 text-sm" aria-expanded={whole} onClick={() => setWhole(!whole)}>
          {whole ? "show less" : `show all ${text.length.toLocaleString("en-GB")} characters`}
        </button>
      )}
    </div>
  );
}
