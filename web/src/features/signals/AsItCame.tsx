import { type Leaf, leaves } from "./mapping";

/** A payload, each value of which can be taken by a click. @param used the places that the mapping takes something from */
export function AsItCame({
  raw,
  used,
  editing,
  onTake,
}: {
  raw: unknown;
  used: string[];
  editing?: string;
  onTake?: (leaf: Leaf) => void;
}) {
  return (
    <>
      <ul className="font-mono text-xs leading-6">
        {leaves(raw).map((leaf) => (
          <li key={leaf.pointer} style={{ paddingLeft: (leaf.depth - 1) * 14 }} className="break-all">
            <span className="text-ink-2">{leaf.name}</span>
            {leaf.value !== undefined && (
              <>
                {": "}
                {onTake ? (
                  <button
                    type="button"
                    title={`Use ${leaf.pointer}`}
                    className={`rounded px-1 text-left hover:bg-here ${used.includes(leaf.pointer) ? "bg-selected font-semibold" : ""}`}
                    onClick={() => onTake(leaf)}
                  >
                    {said(leaf.value)}
                  </button>
                ) : (
                  said(leaf.value)
                )}
              </>
            )}
          </li>
        ))}
      </ul>
      {onTake && (
        <p className="mt-3 text-xs text-ink-2">
          {editing ? `A click on a value makes it the ${editing}.` : "A click on a value makes it one of your own."}{" "}
          What is blank counts as absent.
        </p>
      )}
    </>
  );
}

const said = (value: unknown) => (value === "" ? "blank" : value === null ? "nothing" : String(value));
