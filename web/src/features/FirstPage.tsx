import { lazy, Suspense } from "react";
import { Loading } from "../ui/kit";
import { seesAll, useSession } from "./signin/session";

// The Desk is fetched at once by most people; the page of those who ask only by them.
const DeskPage = lazy(() => import("./desk/DeskPage").then((m) => ({ default: m.DeskPage })));
const MyPage = lazy(() => import("./requester/MyPage").then((m) => ({ default: m.MyPage })));

/** What stands first: the Desk of those who work here, the page of those who ask. */
export function FirstPage() {
  const works = seesAll(useSession().session);
  return <Suspense fallback={<Loading what="the page" />}>{works ? <DeskPage /> : <MyPage />}</Suspense>;
}
