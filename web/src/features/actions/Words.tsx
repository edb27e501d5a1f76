import { useState } from "react";
import { Input } from "../../ui/kit";

/** Words with commas between them; what is typed stays as it is typed. */
export function Words({
  label,
  help,
  words,
  onChange,
  problem,
}: {
  label: string;
  help?: string;
  words: string[];
  onChange: (words: string[]) => void;
  problem?: string;
}) {
  const [typed, setTyped] = useState(words.join(", "));
  return (
    <Input
      label={label}
      help={help}
      problem={problem}
      value={typed}
      placeholder="any"
      onChange={(e) => {
        setTyped(e.target.value);
        onChange(
          e.target.value
            .split(",")
            .map((w) => w.trim())
            .filter(Boolean),
        );
      }}
    />
  );
}
