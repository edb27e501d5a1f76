// Writes what is shipped: bills of materials (CycloneDX) into target/sbom, and NOTICE. Called by ./dastur bill.
import { execFileSync } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from "node:fs";

const server = JSON.parse(readFileSync("target/bom.json", "utf8"));
const web = JSON.parse(
  execFileSync("npm", ["sbom", "--sbom-format", "cyclonedx", "--omit", "dev"], {
    cwd: "web",
    maxBuffer: 64_000_000,
    stdio: ["ignore", "pipe", "ignore"],
  }),
);

/** What npm has installed for building alone is no part of what is shipped. */
const onlyForBuilding = (c) =>
  (c.properties ?? []).some((p) => /package:(development|extraneous)$/.test(p.name) && p.value === "true");
web.components = web.components.filter((c) => !onlyForBuilding(c));
/** Where two parts want two releases of a library, one is shipped. */
const shipped = new Set(readdirSync("server/target/lib"));
server.components = server.components.filter(
  (c) => c.group !== "dastur" && shipped.has(`${c.name}-${c.version}.jar`),
);

mkdirSync("target/sbom", { recursive: true });
writeFileSync("target/sbom/dastur-server.cdx.json", JSON.stringify(server, null, 2));
writeFileSync("target/sbom/dastur-web.cdx.json", JSON.stringify(web, null, 2));

const licence = (c) =>
  (c.licenses ?? []).map((l) => l.expression ?? l.license?.id ?? l.license?.name).join(", ") || "see its archive";
const lines = (bom) =>
  [...new Set(bom.components.map((c) => `  ${c.name} ${c.version} (${licence(c)})`))].sort();

writeFileSync(
  "NOTICE",
  `Dastur
Copyright 2026 the Dastur maintainers

Dastur is licensed under the Apache License, Version 2.0; see LICENSE.
What it ships with, and under which licences. Written by "./dastur bill"; not by hand.

The server:
${lines(server).join("\n")}

The web application:
${lines(web).join("\n")}
`,
);
