// Sends signals by programs that nobody here wrote: events as the CloudEvents library writes them, signed as the Standard Webhooks
// library signs. Writes a line of JSON for each answer. Given: where to, the secret, and as many CIs as are to be spoken of.
import { CloudEvent, HTTP } from "cloudevents";
import { Webhook } from "standardwebhooks";

const [to, secret, ...cis] = process.argv.slice(2);
const webhook = new Webhook(secret);

async function post(id, { headers, body }) {
  const text = typeof body === "string" ? body : JSON.stringify(body);
  const at = new Date();
  const signed = {
    "webhook-id": id,
    "webhook-timestamp": String(Math.floor(at.getTime() / 1000)),
    "webhook-signature": webhook.sign(id, at, text),
  };
  const answer = await fetch(to, { method: "POST", headers: { ...headers, ...signed }, body: text });
  console.log(JSON.stringify({ status: answer.status, ...(await answer.json()) }));
}

for (const [i, ci] of cis.entries()) {
  const event = new CloudEvent({
    id: `others-${i}`,
    source: "/others",
    type: "example.gate.fault",
    data: { sort: "fault", severity: "major", ci, what: "others" },
  });
  await post(`structured-${i}`, HTTP.structured(event));
  // The same once more, then as another delivery in the binary binding.
  await post(`structured-${i}`, HTTP.structured(event));
  await post(`binary-${i}`, HTTP.binary(event.cloneWith({ id: `others-binary-${i}` })));
}
