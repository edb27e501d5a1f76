import type { SourceView } from "../../api/types";

export const PROOFS: { value: SourceView["source"]["proof"]; label: string }[] = [
  { value: "token", label: "by a token in the request’s head" },
  { value: "signature", label: "by a signature over what they send (Standard Webhooks)" },
  { value: "address", label: "by where they send from: lines of syslog, over TCP" },
  { value: "mail", label: "by the address that their mail is from" },
];

/** An example for a shell that sends a line of syslog. */
export const syslogExample = (host: string, port: number): string =>
  [
    `logger --server ${host} --tcp --port ${port} --octet-count --rfc5424 \\`,
    "  --tag gates --msgid STUCK --priority local0.err 'Gate 2 stands open'",
  ].join("\n");

/** An example for a shell that posts a fault to a source. @param secret the secret, or a word that stands for it */
export function example(address: string, proof: SourceView["source"]["proof"], secret: string): string {
  const body = '{"specversion":"1.0","id":"1","source":"/example","type":"example.fault","data":{"sort":"fault"}}';
  if (proof === "token")
    return [
      `curl -X POST '${address}' \\`,
      `  -H 'Authorization: Bearer ${secret}' \\`,
      "  -H 'Content-Type: application/cloudevents+json' \\",
      `  -d '${body}'`,
    ].join("\n");
  return [
    `body='${body}'`,
    "id=$(uuidgen); at=$(date +%s)",
    `key=$(printf %s '${secret}' | sed 's/^whsec_//' | base64 -d | od -An -tx1 | tr -d ' \\n')`,
    'sign=$(printf %s "$id.$at.$body" | openssl dgst -sha256 -mac HMAC -macopt hexkey:$key -binary | base64)',
    `curl -X POST '${address}' \\`,
    "  -H 'Content-Type: application/cloudevents+json' \\",
    '  -H "webhook-id: $id" -H "webhook-timestamp: $at" -H "webhook-signature: v1,$sign" \\',
    '  -d "$body"',
  ].join("\n");
}
