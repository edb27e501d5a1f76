// Takes what a subscription sends, as a program that nobody here wrote would: the signature is verified by the Standard Webhooks
// library, and the event read and validated by the CloudEvents library. Writes its port, then a line of JSON for each delivery.
import { createServer } from "node:http";
import { HTTP } from "cloudevents";
import { Webhook } from "standardwebhooks";

const webhook = new Webhook(process.argv[2]);

const server = createServer((request, response) => {
  let body = "";
  request.on("data", (part) => {
    body += part;
  });
  request.on("end", () => {
    const said = taken(request.headers, body);
    response.statusCode = said.ok ? 204 : 401;
    response.end();
    console.log(JSON.stringify(said));
  });
});

function taken(headers, body) {
  try {
    webhook.verify(body, headers);
    const event = HTTP.toEvent({ headers, body });
    return { ok: event.validate(), id: event.id, type: event.type, source: event.source, subject: event.subject };
  } catch (error) {
    return { ok: false, why: String(error.message) };
  }
}

server.listen(0, "127.0.0.1", () => console.log(server.address().port));
