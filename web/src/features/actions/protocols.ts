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
    "https://…: actions continue it with their path. Others begin with walk+https://, ssh://, sftp://, dns://, postgresql://, ldap:// or, through a relay, relay://. Nothing else is reached.",
  secret: "How it is used is said below.",
  methods: ["GET", "POST", "PUT", "PATCH", "DELETE"],
  path: { label: "Path", help: "{{ input.name }} puts an input in, escaped as it needs." },
  body: { label: "Body (JSON)", example: '{"lane": "{{ input.lane }}"}' },
  answers:
    "Outputs and results are read from what comes back: JSON as it is; of XML by xpath: and an XPath, such as xpath://lane/@state; of a table of comma-separated values /rows and /count; of any other text /text and /lines.",
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

const SQL: Protocol = {
  address:
    "postgresql://user@host:port/database. The server's certificate is checked; ?tls=none behind it leaves TLS out, in a network of one's own.",
  secret: "The user's password. Give the user no more than the statements need.",
  methods: ["QUERY", "CHANGE"],
  path: null,
  body: {
    label: "One statement; a value never stands in quotes",
    example: "select name, expires from certificate where site = {{ input.site }}",
  },
  answers:
    "What comes back: /rows, a table by the names of its columns, and /count. A QUERY cannot write; a CHANGE counts what it changed. More than 2,000 rows are a failure that says so.",
};

const SFTP: Protocol = {
  address:
    "sftp://user@host:port/folder?hostkey=SHA256:… with the host's key as ssh-keygen -lf prints it. Nothing above the folder is reached, also not through a link.",
  secret: "The user's password, or their private key.",
  methods: ["LIST", "FETCH", "STORE", "RENAME", "REMOVE"],
  path: { label: "Path below the folder", help: "Such as /traces/{{ input.file }}." },
  body: { label: "Body (JSON): text for STORE, to for RENAME", example: '{"text": "{{ input.text }}"}' },
  answers:
    "What comes back: LIST /files (name, kind, size in bytes, modified, days), /count and /bytes; FETCH /text, /lines and /size; STORE /size; REMOVE /status (removed, or was not there) and /size.",
};

const LDAP: Protocol = {
  address:
    "ldap://host:port/dc=…?bind=cn=…: a directory, below which name its entries stand, and as whom it is signed in to. TLS comes before the sign-in; &tls=none leaves it out, in a network of one's own. Or ldaps://.",
  secret: "The password of the name that signs in. Give it no more than the actions need.",
  methods: ["SEARCH", "JOIN", "LEAVE", "CREATE", "MODIFY"],
  path: null,
  body: {
    label: "Which entries, by what stands in them (JSON)",
    example: '{"group": {"cn": "roster"}, "member": {"uid": "{{ input.person }}"}}',
  },
  answers:
    'What comes back: JOIN and LEAVE /status (joined, left, or already so); SEARCH {"where": …, "give": […]} /entries and /count; CREATE /dn; MODIFY {"entry": …, "set": …} /before. A name that fits none or several changes nothing.',
};

const WALK: Protocol = {
  address:
    "walk+https://…: pages that a browser of its own walks through as a person would, for systems that have no other way in. Nothing else is reached from there.",
  secret: "What steps type into a field that asks for it. It is in no picture.",
  methods: ["WALK"],
  path: { label: "The page it begins at", help: "Such as /shop." },
  body: { label: "Steps (JSON)", example: '[{"expect": "Welcome"}]' },
  answers:
    "What comes back: /status (held, missed where a check did not hold, stuck where a step could not be done), /checks (a table: check, result and, where it did not hold, what the page said instead), /held, /missed, /notReached, and what was read below /read. Unless a result below means it, missed and stuck are a failure. Pictures are attached to the ticket.",
};

const SCRIPT: Protocol = {
  address: "Scripts are run by a relay: relay://zone/name?as=script.",
  secret: "Secrets of a zone are kept there.",
  methods: ["START"],
  path: {
    label: "Script",
    help: "Its name in the relay's folder behind a slash, such as /drain-host, without values.",
  },
  body: { label: "Arguments (a JSON list of texts)", example: '["{{ input.host }}"]' },
  answers:
    "What comes back: /status, /out, /lines, /err, /json where the output is JSON, and /script/sha256 and /script/revision of what ran. A status that is not 0 is a failure, or a result below.",
};

/** What a relay speaks at its end, by the word in the connection's address. */
const AS: Record<string, Protocol> = {
  http: HTTP,
  ssh: SSH,
  sftp: SFTP,
  ldap: LDAP,
  dns: DNS,
  postgresql: SQL,
  script: SCRIPT,
};

const RELAY = "relay://";

/** What is said of the address of a connection. */
export function addressHelp(address: string | undefined): string {
  return address?.startsWith(RELAY)
    ? "relay://zone/name?as=http (or ssh, sftp, dns, postgresql, ldap, script): the zone, what the file of its relays calls the connection, and how it is spoken to there."
    : protocolOf(address).address;
}

/** Whether its calls are made by relays: what is needed to sign in is kept in their zone. */
export const isInZone = (address: string | undefined) => address?.startsWith(RELAY) ?? false;

/** The protocol of an address, as its beginning says it; HTTP while it says nothing yet. */
export function protocolOf(address: string | undefined): Protocol {
  if (address?.startsWith(RELAY)) return AS[address.split("?as=")[1] ?? ""] ?? HTTP;
  if (address?.startsWith("ssh://")) return SSH;
  if (address?.startsWith("sftp://")) return SFTP;
  if (address?.startsWith("ldap://") || address?.startsWith("ldaps://")) return LDAP;
  if (address?.startsWith("walk+http")) return WALK;
  if (address?.startsWith("dns://")) return DNS;
  if (address?.startsWith("postgresql://")) return SQL;
  return HTTP;
}

const KINDS: [string, Protocol][] = [
  ["HTTP", HTTP],
  ["SSH", SSH],
  ["SFTP", SFTP],
  ["SQL", SQL],
  ["LDAP", LDAP],
  ["DNS", DNS],
  ["walk", WALK],
  ["script", SCRIPT],
];

/** All that can be spoken. */
export const ALL_KINDS = KINDS.map(([word]) => word);

/** What an address is spoken to over, in a word. */
export function kindOf(address: string | undefined): string {
  return KINDS.find(([, protocol]) => protocol === protocolOf(address))?.[0] ?? "HTTP";
}
