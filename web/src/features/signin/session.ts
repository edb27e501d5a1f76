import { createContext, useContext } from "react";
import type { Session } from "../../api/types";

export interface SignedIn {
  session: Session;
  demo: boolean;
  standins?: string;
  signOut: () => void;
}

export const SessionContext = createContext<SignedIn | null>(null);

/** Who is signed in; only below the session gate. */
export function useSession(): SignedIn {
  const value = useContext(SessionContext);
  if (!value) throw new Error("outside the session gate");
  return value;
}

export const seesAll = (s: Session) => s.roles.some((r) => r !== "requester");
export const designs = (s: Session) => s.roles.some((r) => r === "process owner" || r === "administrator");
export const works = (s: Session) => designs(s) || s.roles.includes("agent");
export const raises = (s: Session) => s.roles.some((r) => r !== "auditor");
export const administers = (s: Session) => s.roles.includes("administrator");
