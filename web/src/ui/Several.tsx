import { Chip } from "./kit";
import { type Option, Select } from "./Select";

/** Some of many: each that is chosen stands beside a button that takes it away. */
export function Several({
  label,
  help,
  none,
  options,
  values,
  onChange,
  problem,
}: {
  label: string;
  help?: string;
  /** What it means that none is chosen. */
  none: string;
  options: Option[];
  values: string[];
  onChange: (values: string[]) => void;
  problem?: string;
}) {
  const name = (value: string) => options.find((o) => o.value === value)?.label ?? value;
  return (
    <div>
      <Select
        label={label}
        help={help}
        problem={problem}
        value=""
        placeholder={values.length === 0 ? none : "one more…"}
        options={options.filter((o) => !values.includes(o.value))}
        onChange={(value) => onChange([...values, value])}
      />
      {values.length > 0 && (
        <ul aria-label={label} className="mt-1 flex flex-wrap gap-1">
          {values.map((v) => (
            <li key={v}>
              <Chip>
                {name(v)}{" "}
                <button
                  type="button"
                  aria-label={`Without ${name(v)}`}
                  className="ml-1 font-bold"
                  onClick={() => onChange(values.filter((other) => other !== v))}
                >
                  ×
                </button>
              </Chip>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
