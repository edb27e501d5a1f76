/** What has to be said about an outside system, by how it is spoken to. */
export interface Protocol {
  /** About the connection's address. */
  address: string;
  /** What its secret is. */
  secret: string;
  methods: string[];
  /** Null where a call has none. */
  path: { label: string; help: string } | null;
  body: { label: string; example: string };
  /** What stands in an answer, for the pointers of outputs and results. */
  answers: string;
}

const HTTP: Protocol = {
  address:
    "https://…: actions continue it with their path. Others begin with ssh:// or dns://. Nothing else is reached.",
  secret: "Sent as a bearer token (RFC 6750).",
  methods: ["GET", "POST", "PUT", "PATCH", "DELETE"],
  path: { label: "Path", help: "{{ input.name }} puts an input in, escaped as it needs." },
  body: { label: "Body (JSON)", example: '{"lane": "{{ input.lane }}"}' },
  answers: "Outputs and results are read from the JSON that comes back.",
};

const SSH: Protocol = {
  address:
    "ssh://user@host:port?hostkey=SHA256:… with the host's key as ssh-keygen -lf prints it. No other host is told anything.",
  secret: "The user's password, or their private key.",
  methods: ["RUN"],
  path: null,
  body: { label: "Command, word by word (a JSON list)", example: '["board", "restart", "{{ input.board }}"]' },
  answers:
    "What comes back: /status, /out (its output), /lines, /err, and /json where the output is JSON. A status that is not 0 is a failure, or a result below.",
};

const DNS: Protocol = {
  address: "dns://host:port, a name server.",
  secret: "A key that signs updates (TSIG), written name:base64.",
  methods: ["ASK", "UPDATE"],
  path: { label: "Name and type, for ASK", help: "Such as /{{ input.name }}/A." },
  body: {
    label: "What is set, for UPDATE (JSON)",
    example:
      '{"zone": "kestrel.example", "name": "{{ input.name }}", "type": "A", "ttl": 60, "values": ["{{ input.address }}"]}',
  },
  answers: "What comes back: /values and /found; for UPDATE also /before, what stood there.",
};

/** The protocol of an address, as its beginning says it; HTTP while it says nothing yet. */
export function protocolOf(address: string | undefined): Protocol {
  if (address?.startsWith("ssh://")) return SSH;
  if (address?.startsWith("dns://")) return DNS;
  return HTTP;
}

/** What an address is spoken to over, in a word. */
export function kindOf(address: string | undefined): "HTTP" | "SSH" | "DNS" {
  const protocol = protocolOf(address);
  return protocol === SSH ? "SSH" : protocol === DNS ? "DNS" : "HTTP";
}
