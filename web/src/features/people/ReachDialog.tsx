import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import type { Reach } from "../../api/types";
import { Check } from "../../ui/Check";
import { Dialog, Input, Loading, Select, Trouble } from "../../ui/kit";
import { When } from "../../ui/When";
import { SetUpDialog } from "../setup/saving";

const CHANNELS = [
  { value: "mail", label: "by mail" },
  { value: "chat", label: "by chat" },
];

/** How I am reached: by mail or chat, and when I am left in peace. */
export function ReachDialog({ onClose }: { onClose: () => void }) {
  const reach = useQuery({ queryKey: ["reach"], queryFn: () => api.get<Reach>("/api/me/reach") });
  if (reach.data) return <Form reach={reach.data} onClose={onClose} />;
  return (
    <Dialog title="How I am reached" open onClose={onClose}>
      {reach.isLoadingError ? (
        <Trouble error={reach.error} onRetry={() => reach.refetch()} />
      ) : (
        <Loading what="how you are reached" />
      )}
    </Dialog>
  );
}

function Form({ reach, onClose }: { reach: Reach; onClose: () => void }) {
  const [chat, setChat] = useState(reach.chat ?? "");
  const [urgent, setUrgent] = useState(reach.urgent);
  const [other, setOther] = useState(reach.other);
  const [quiet, setQuiet] = useState(reach.quietFrom !== undefined);
  const [from, setFrom] = useState((reach.quietFrom ?? "22:00").slice(0, 5));
  const [until, setUntil] = useState((reach.quietUntil ?? "07:00").slice(0, 5));
  const [digest, setDigest] = useState(reach.digestAt?.slice(0, 5) ?? "");
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return (
    <SetUpDialog
      title="How I am reached"
      save={() =>
        api.put("/api/me/reach", {
          ...(chat.trim() && { chat }),
          urgent,
          other,
          ...(quiet && { quietFrom: from, quietUntil: until }),
          ...(digest && { digestAt: digest }),
          zone,
        })
      }
      stale={["reach"]}
      onClose={onClose}
    >
      {(at) => (
        <>
          <Input
            label="My name on the chat server"
            value={chat}
            problem={at("chat")}
            onChange={(e) => setChat(e.target.value)}
            placeholder="@me:kestrel.example"
            help="Dastur invites you to a room of your own; decisions can be answered there. When chat fails, mail stands in."
          />
          <div className="grid gap-3 sm:grid-cols-2">
            <Select
              label="Decisions, call-ins, escalations"
              value={urgent}
              onChange={(picked) => setUrgent(picked as Reach["urgent"])}
              options={CHANNELS}
            />
            <Select
              label="Everything else"
              value={other}
              onChange={(picked) => setOther(picked as Reach["other"])}
              options={CHANNELS}
            />
          </div>
          <Check
            label="What is not urgent comes in one mail a day"
            checked={digest !== ""}
            onChange={(picked) => setDigest(picked ? "08:00" : "")}
          />
          {digest !== "" && (
            <When
              label="At"
              kind="time"
              required
              value={digest}
              onChange={(picked) => setDigest(picked)}
              help={`In ${zone}.`}
            />
          )}
          <Check
            label="Quiet hours: only what is urgent reaches me"
            checked={quiet}
            onChange={(picked) => setQuiet(picked)}
          />
          {quiet && (
            <div className="grid gap-3 sm:grid-cols-2">
              <When label="From" kind="time" required value={from} onChange={(picked) => setFrom(picked)} />
              <When
                label="Until"
                kind="time"
                required
                value={until}
                problem={at("quietUntil")}
                onChange={(picked) => setUntil(picked)}
                help={`In ${zone}. The rest waits until then.`}
              />
            </div>
          )}
        </>
      )}
    </SetUpDialog>
  );
}
