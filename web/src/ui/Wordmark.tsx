/** The name with its mark: a step on a line. On a phone, where there is little room, the mark alone. */
export function Wordmark({ small }: { small?: boolean }) {
  return (
    <span className="flex items-center gap-2 text-pine">
      <svg aria-hidden="true" width="12" height="24" viewBox="0 0 12 24">
        <path d="M6 0V7M6 17V24" stroke="currentColor" strokeWidth="2.4" />
        <circle cx="6" cy="12" r="4.2" fill="none" stroke="currentColor" strokeWidth="2.6" />
      </svg>
      <span className={`text-xl font-extrabold tracking-tight ${small ? "max-md:sr-only" : ""}`}>Dastur</span>
    </span>
  );
}
