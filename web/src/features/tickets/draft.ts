/** What somebody has said of a ticket they have not raised yet; it outlives the page. */
export interface Draft {
  kind: string;
  title: string;
  description: string;
  requester: string;
  ci: string;
  service: string;
  impact: string;
  urgency: string;
}

export const STORE = "dastur-raise";

/** Puts down what somebody has said already: the dialog begins with it. */
export function beginDraft(said: Partial<Draft>): void {
  const before = JSON.parse(sessionStorage.getItem(STORE) ?? "{}") as Partial<Draft>;
  const title = said.title?.trim() ? said.title : (before.title ?? "");
  sessionStorage.setItem(STORE, JSON.stringify({ ...before, ...said, title }));
}
