import type { Step } from "../api/types";

export const KIND_WORDS: Record<Step["kind"], string> = {
  task: "a person does this",
  approval: "people decide this",
  branch: "data decides this",
  automation: "a machine does this",
  notify: "people are told",
  update: "values are set",
  wait: "time passes",
  end: "the line ends",
};

/** The mark of a step's kind: shape says kind; colour is left for time and result. Drawn in a box of 26 around (0, 0). */
export function Glyph({ kind, fill = "var(--sheet)" }: { kind: Step["kind"]; fill?: string }) {
  const p = {
    fill,
    stroke: "currentColor",
    strokeWidth: 2.4,
    strokeLinecap: "round",
    strokeLinejoin: "round",
  } as const;
  switch (kind) {
    case "task":
      return (
        <g {...p}>
          <circle r="11" />
          <circle r="2.6" cy="-2.6" fill="currentColor" stroke="none" />
          <path d="M-5 5.5a5 4.4 0 0 1 10 0z" fill="currentColor" stroke="none" />
        </g>
      );
    case "approval":
      return (
        <g {...p} strokeWidth="2">
          <circle r="12" />
          <circle r="8.4" strokeWidth="1.4" />
          <path d="M-3.6 .2 -1 2.8 3.8 -2.6" fill="none" />
        </g>
      );
    case "branch":
      return (
        <g {...p}>
          <path d="M-12 0 0 -10 12 0 0 10z" />
          <path d="M0 3.5V0M0 0 -3.4 -3M0 0 3.4 -3" fill="none" strokeWidth="1.8" />
        </g>
      );
    case "automation":
      return (
        <g {...p}>
          <rect x="-11" y="-11" width="22" height="22" rx="5" />
          <path d="M-5.5 -4 -1.5 0 -5.5 4M.8 4.6H5.6" fill="none" strokeWidth="2" />
        </g>
      );
    case "notify":
      return (
        <g {...p}>
          <path d="M-10 11V-10H10L6 -3.4 10 3.2H-10" />
        </g>
      );
    case "update":
      return (
        <g {...p}>
          <rect x="-12" y="-8" width="24" height="16" rx="8" />
          <path d="M-4.5 0H4.5" />
        </g>
      );
    case "wait":
      return (
        <g {...p}>
          <path d="M-8.5 -10.5H8.5L-8.5 10.5H8.5z" />
        </g>
      );
    case "end":
      return <rect x="-13" y="-4" width="26" height="8" rx="2" fill="currentColor" />;
  }
}
