import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api } from "../../api/client";
import type { CiHit } from "../../api/types";
import { Select } from "../../ui/kit";

/** One CI of very many: asked of the server by the letters typed. @param none what an empty one means; undefined where one is needed */
export function CiSelect({
  none,
  ...rest
}: {
  label: string;
  hideLabel?: boolean;
  help?: string;
  problem?: string;
  required?: boolean;
  value: string;
  none: string | undefined;
  onChange: (value: string) => void;
}) {
  const [text, setText] = useState("");
  const asked = useDeferredValue(text);
  const found = useQuery({
    queryKey: ["cis", asked],
    queryFn: () => api.get<CiHit[]>(`/api/cis?text=${encodeURIComponent(asked)}`),
    placeholderData: (before) => before,
  });
  return (
    <Select
      {...rest}
      placeholder={none ?? "choose a CI…"}
      onSearch={setText}
      options={[
        ...(none ? [{ value: "", label: none }] : []),
        ...(found.data ?? []).map((c) => ({ value: c.id, label: c.id, detail: c.name })),
      ]}
    />
  );
}
