import { useMemo, useState } from "react";
import { useCatalogue } from "../../api/hooks";
import type { Version } from "../../api/types";
import { ConditionBuilder } from "./ConditionBuilder";
import { ExpressionInput, ProblemAt, Trial, useProblem } from "./ExpressionInput";
import { GiveName } from "./GiveName";
import { OnSignals } from "./OnSignals";
import { knownPaths, signalPaths } from "./paths";

/**
 * A condition by rows of field, operator and value; as an expression where somebody asks for it. Both are one thing: what rows
 * cannot say stands in a row of its own (N13, N31).
 *
 * @param version the draft it belongs to; none for conditions of triggers
 */
export function ConditionInput({
  label,
  hideLabel,
  value,
  onChange,
  version,
  signal,
  source,
}: {
  label: string;
  hideLabel?: boolean;
  value: string;
  onChange: (text: string) => void;
  version?: Version;
  /** Whether it is asked of signals, and not of a ticket. */
  signal?: boolean;
  /** Of which source's signals; of all where it is left out. */
  source?: string;
}) {
  const [written, setWritten] = useState(false);
  const catalogue = useCatalogue().data;
  const known = useMemo(
    () => (signal ? signalPaths(catalogue) : knownPaths(version, catalogue)),
    [signal, version, catalogue],
  );
  const problem = useProblem("condition", value, version, signal);
  const turn = (
    <button type="button" className="link mr-3 text-xs" onClick={() => setWritten(!written)}>
      {written ? "by rows" : "as an expression"}
    </button>
  );
  if (written)
    return (
      <div>
        <ExpressionInput
          label={label}
          hideLabel={hideLabel}
          kind="condition"
          version={version}
          signal={signal}
          value={value}
          onChange={onChange}
        />
        {turn}
      </div>
    );
  return (
    <div role="group" aria-label={label}>
      {!hideLabel && <p className="mb-1 text-sm font-semibold text-ink-2">{label}</p>}
      <ConditionBuilder value={value} paths={known} onChange={onChange} />
      {problem && <ProblemAt problem={problem} />}
      <div className="mt-1">
        {turn}
        {version && value.trim() !== "" && !problem && <GiveName version={version} value={value} onChange={onChange} />}
        {signal && !problem && value.trim() !== "" && <OnSignals condition={value} source={source} />}
        {!signal && !problem && value.trim() !== "" && <Trial kind="condition" text={value} version={version} />}
      </div>
    </div>
  );
}
