import { useEffect, useRef, useState } from "react";
import { api } from "../../api/client";
import type { FormValues } from "./FormFields";

const PAUSE = 700;

/**
 * What somebody fills in of a task's form: kept in the browser at once and on the server shortly after, so that it is there
 * on their other devices too and never lost.
 */
export function useFormDraft(visit: string, kept: Record<string, unknown>) {
  const store = `dastur-form-${visit}`;
  const [form, setForm] = useState<FormValues>(() => {
    const here = sessionStorage.getItem(store);
    return here ? (JSON.parse(here) as FormValues) : (kept as FormValues);
  });
  const [saved, setSaved] = useState<"" | "saving" | "saved" | "failed">("");
  const waiting = useRef<FormValues>(undefined);
  const timer = useRef(0);
  const keep = useRef(async () => {});
  keep.current = async () => {
    const next = waiting.current;
    if (next === undefined) return;
    waiting.current = undefined;
    try {
      await api.put(`/api/tasks/${visit}/draft`, { form: next });
      sessionStorage.removeItem(store);
      setSaved("saved");
    } catch {
      setSaved("failed");
    }
  };
  useEffect(
    () => () => {
      window.clearTimeout(timer.current);
      void keep.current();
    },
    [],
  );
  const change = (next: FormValues) => {
    setForm(next);
    sessionStorage.setItem(store, JSON.stringify(next));
    waiting.current = next;
    setSaved("saving");
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => void keep.current(), PAUSE);
  };
  return [form, change, saved] as const;
}
