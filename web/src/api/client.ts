import { create } from "zustand";
import { withTimes } from "../ui/time";
import type { Problem } from "./types";

/** A problem the server answered with (RFC 9457), as an error that screens can show. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

/** Whether a command never got an answer that settles it: no connection, a server that is not itself, or nobody signed in. */
export const isUnsent = (error: unknown) =>
  error instanceof ProblemError && ([0, 401].includes(error.problem.status) || error.problem.status >= 500);

/** Whether the server has said that it knows the session no more. */
export const useSignedOut = create<{ out: boolean }>(() => ({ out: false }));

let csrf = "";

export function setCsrf(token: string): void {
  csrf = token;
}

/** By what the server tags an answer that is here. */
const tags = new WeakMap<object, string>();

/** @param had what was answered before: answered again where it is still so, as the same object */
async function call<T>(
  method: string,
  path: string,
  body?: unknown,
  commandId?: string,
  credentials: RequestCredentials = "same-origin",
  had?: T & object,
): Promise<T> {
  const headers: Record<string, string> = {};
  const tag = had && tags.get(had);
  if (tag) headers["If-None-Match"] = tag;
  if (method !== "GET") headers["X-CSRF-Token"] = csrf;
  const file = body instanceof Blob;
  if (body !== undefined) headers["Content-Type"] = file ? body.type || "text/plain" : "application/json";
  if (commandId) headers["Idempotency-Key"] = commandId;
  let response: Response;
  try {
    response = await fetch(path, {
      method,
      headers,
      credentials,
      body: body === undefined ? undefined : file ? body : JSON.stringify(body),
    });
  } catch {
    throw new ProblemError({
      type: "urn:dastur:problem:offline",
      title: "No connection",
      status: 0,
      detail: "The server does not answer. What you typed is kept; try again in a moment.",
    });
  }
  if (response.status === 401 && credentials !== "omit" && !path.startsWith("/api/session"))
    useSignedOut.setState({ out: true });
  if (had && response.status === 304) return had;
  if (!response.ok) throw new ProblemError(await problemOf(response));
  if (response.status === 204) return undefined as T;
  const answer = (await response.json()) as T;
  const tagged = response.headers.get("ETag");
  if (tagged && answer instanceof Object) tags.set(answer, tagged);
  return answer;
}

async function problemOf(response: Response): Promise<Problem> {
  try {
    const problem = (await response.json()) as Problem;
    return { ...problem, detail: withTimes(problem.detail ?? "") };
  } catch {
    return { type: "about:blank", title: "Something went wrong", status: response.status, detail: "Try again." };
  }
}

export const api = {
  get: <T>(path: string) => call<T>("GET", path),
  /** Reads what is large and seldom changes, and costs little where it has not. */
  getAgain: <T extends object>(path: string, had: T | undefined) =>
    call<T>("GET", path, undefined, undefined, "same-origin", had),
  /** A command carries an id of its own, so that a repeated click or a retry does nothing twice. */
  post: <T>(path: string, body?: unknown, commandId: string = crypto.randomUUID()) =>
    call<T>("POST", path, body, commandId),
  put: <T>(path: string, body: unknown, commandId: string = crypto.randomUUID()) =>
    call<T>("PUT", path, body, commandId),
  upload: (path: string, file: File) => call<unknown>("POST", path, file, crypto.randomUUID()),
  delete: (path: string) => call<void>("DELETE", path),
};

/** For links that say by themselves whose they are: whoever is signed in beside has nothing to do with them. */
export const unsigned = {
  get: <T>(path: string) => call<T>("GET", path, undefined, undefined, "omit"),
  post: <T>(path: string, body: unknown) => call<T>("POST", path, body, crypto.randomUUID(), "omit"),
};
