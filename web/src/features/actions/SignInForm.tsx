import type { Connection } from "../../api/types";
import { Input, Select } from "../../ui/kit";

export type SignIn = NonNullable<Connection["signIn"]>;

const WAYS: { value: SignIn["is"]; label: string; help: string }[] = [
  { value: "bearer", label: "as a bearer token", help: "The secret is a token (RFC 6750)." },
  { value: "basic", label: "as a password", help: "The secret is the password of a name (RFC 7617)." },
  { value: "header", label: "in a header of its own", help: "The secret is what stands in it." },
  {
    value: "client credentials",
    label: "for a token of a client",
    help: "The secret is the client's. It gets a token for it, and another when that is over (RFC 6749, client credentials).",
  },
  {
    value: "certificate",
    label: "as a certificate",
    help: "The secret is a private key with its certificates, in PEM. It is shown in the handshake.",
  },
];

const EMPTY: Record<SignIn["is"], SignIn> = {
  bearer: { is: "bearer" },
  basic: { is: "basic", user: "" },
  header: { is: "header", name: "" },
  "client credentials": { is: "client credentials", tokenAddress: "", client: "" },
  certificate: { is: "certificate" },
};

/** How a connection over HTTP uses its secret (M6). */
export function SignInForm({
  value,
  onChange,
  at,
}: {
  value: SignIn;
  onChange: (value: SignIn) => void;
  at: (field: string) => string | undefined;
}) {
  return (
    <>
      <Select
        label="How it signs in"
        value={value.is}
        problem={at("signIn")}
        help={WAYS.find((w) => w.value === value.is)?.help}
        onChange={(is) => onChange(EMPTY[is as SignIn["is"]])}
        options={WAYS}
      />
      {value.is === "basic" && (
        <Input
          label="Name to sign in with"
          required
          value={value.user}
          problem={at("signIn.user")}
          onChange={(e) => onChange({ ...value, user: e.target.value })}
        />
      )}
      {value.is === "header" && (
        <Input
          label="Header"
          required
          placeholder="X-Api-Key"
          value={value.name}
          problem={at("signIn.name")}
          onChange={(e) => onChange({ ...value, name: e.target.value })}
        />
      )}
      {value.is === "client credentials" && (
        <>
          <Input
            label="Where tokens are given"
            required
            placeholder="https://sign-in.kestrel.example/token"
            value={value.tokenAddress}
            problem={at("signIn.tokenAddress")}
            onChange={(e) => onChange({ ...value, tokenAddress: e.target.value })}
          />
          <div className="grid grid-cols-2 gap-2">
            <Input
              label="Client"
              required
              value={value.client}
              problem={at("signIn.client")}
              onChange={(e) => onChange({ ...value, client: e.target.value })}
            />
            <Input
              label="Scope"
              placeholder="whatever it may"
              value={value.scope ?? ""}
              problem={at("signIn.scope")}
              onChange={(e) => onChange({ ...value, scope: e.target.value || undefined })}
            />
          </div>
        </>
      )}
    </>
  );
}
