import type { Step } from "../api/types";

export const KIND_WORDS: Record<Step["kind"], string> = {
  task: "a person does this",
  approval: "people decide this",
  branch: "data decides this",
  automation: "a machine does this",
  notify: "people are told",
  update: "values are set",
  wait: "something is waited for",
  capture: "a machine measures this",
  check: "rules judge this",
  call: "another workflow does this",
  escalate: "people are called in",
  stage: "a part by itself",
  fork: "lines run side by side",
  "for each": "once for each item of a list",
  repeat: "again until a condition holds",
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
    case "capture":
      return (
        <g {...p}>
          <rect x="-11" y="-11" width="22" height="22" rx="5" />
          <path d="M-6 5V1M-2 5V-2M2 5V-5M6 5V-1" fill="none" strokeWidth="2" />
        </g>
      );
    case "check":
      return (
        <g {...p}>
          <path d="M-11 -11H11V4L0 12 -11 4z" />
          <path d="M-4.4 -1.4 -1 2 5 -4.6" fill="none" strokeWidth="2" />
        </g>
      );
    case "call":
      return (
        <g {...p}>
          <rect x="-12" y="-9" width="24" height="18" rx="2" />
          <path d="M-12 -4.5H12M-12 4.5H12" fill="none" strokeWidth="1.5" />
        </g>
      );
    case "escalate":
      return (
        <g {...p}>
          <circle r="11" />
          <path d="M-5 5H-1.6V1.4H1.8V-2.2H5.2" fill="none" strokeWidth="2" />
        </g>
      );
    case "stage":
      return (
        <g {...p}>
          <path d="M-11 -9H-4M-11 -9V9M-11 9H-4M11 -9H4M11 -9V9M11 9H4" fill="none" />
          <circle r="3" fill="currentColor" stroke="none" />
        </g>
      );
    case "fork":
      return (
        <g {...p}>
          <path d="M-11 -9H11M-11 9H11M-7 -9V9M0 -9V9M7 -9V9" fill="none" strokeWidth="2" />
        </g>
      );
    case "for each":
      return (
        <g {...p}>
          <path d="M-11 -9H-4M-11 -9V9M-11 9H-4M11 -9H4M11 -9V9M11 9H4" fill="none" />
          <path d="M-4.5 -4H4.5M-4.5 0H4.5M-4.5 4H4.5" fill="none" strokeWidth="1.8" />
        </g>
      );
    case "repeat":
      return (
        <g {...p}>
          <path d="M-11 -9H-4M-11 -9V9M-11 9H-4M11 -9H4M11 -9V9M11 9H4" fill="none" />
          <path d="M4.6 1.5A5 5 0 1 1 3.4 -3.6M4.6 -6V-2.6H1.2" fill="none" strokeWidth="1.7" />
        </g>
      );
    case "end":
      return <rect x="-13" y="-4" width="26" height="8" rx="2" fill="currentColor" />;
  }
}
