package dastur.server;

import dastur.core.json.Json;
import dastur.core.notation.Notation;
import dastur.core.record.Entry;
import dastur.core.record.Export;
import dastur.core.run.Case;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.WorkflowKey;
import dastur.server.api.CiCsv;
import dastur.store.Database;
import dastur.store.KnownAnswers;
import dastur.store.Organisation;
import dastur.store.Partners;
import dastur.store.RecordLog;
import dastur.store.Records;
import dastur.store.Relays;
import dastur.store.Sources;
import dastur.store.Subscriptions;
import dastur.store.Tickets;
import dastur.store.Watches;
import dastur.store.Workflows;
import java.io.BufferedWriter;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyPair;
import java.time.Instant;
import java.util.List;

/**
 * Everything as open files, readable without Dastur (K10): a proved record for each ticket, workflows as text, what the
 * organisation has as JSON and CSV, attached files by their hash. Passwords, tokens and secrets are not among them.
 */
final class WholeExport {
    private static final int MOST_CIS = 1_000_000;

    private final Database database;
    private final RecordLog log;
    private final KeyPair signing;

    WholeExport(Database database, RecordLog log, KeyPair key) {
        this.database = database;
        this.log = log;
        this.signing = key;
    }

    /** Writes into a folder that is not there yet. Returns how many records. */
    long to(Path folder, Instant at) throws IOException {
        if (Files.exists(folder)) {
            throw new IOException("There is something at " + folder + " already.");
        }
        log.catchUp();
        log.sign(at);
        long records = records(folder, at);
        workflows(folder);
        organisation(folder);
        try (BufferedWriter out = Files.newBufferedWriter(folder.resolve("checkpoints.ndjson"))) {
            for (var checkpoint : log.checkpoints(Integer.MAX_VALUE).reversed()) {
                out.write(Json.write(checkpoint) + "\n");
            }
        }
        return records;
    }

    private long records(Path folder, Instant at) throws IOException {
        Path to = Files.createDirectories(folder.resolve("records"));
        Path files = Files.createDirectories(folder.resolve("files"));
        Tickets tickets = new Tickets(database);
        Records records = new Records(database, log);
        dastur.store.Files bytes = new dastur.store.Files(database);
        long count = 0;
        List<TicketId> page = tickets.numbers("");
        while (!page.isEmpty()) {
            for (TicketId ticket : page) {
                Records.Checked checked = records.checked(ticket);
                try (BufferedWriter out = Files.newBufferedWriter(to.resolve(ticket + ".ndjson"))) {
                    for (Entry entry : checked.entries()) {
                        out.write(Export.line(entry) + "\n");
                    }
                    RecordLog.Covered covered = log.covered(ticket).orElse(null);
                    // A record that does not hold is written as it is, without a signature that would say that it does.
                    if (checked.problem().isEmpty()
                            && covered != null
                            && covered.seq() == checked.entries().size()) {
                        out.write(Export.trailer(ticket, covered.seq(), covered.hash(), covered.proof(), at, signing)
                                + "\n");
                    }
                }
                for (Case.FileRef file : tickets.find(ticket).map(Case::files).orElse(List.of())) {
                    Path one = files.resolve(file.hash());
                    if (!Files.exists(one)) {
                        Files.write(one, bytes.bytes(file.hash()).orElse(new byte[0]));
                    }
                }
                count++;
            }
            page = tickets.numbers(page.getLast().value());
        }
        return count;
    }

    private void workflows(Path folder) throws IOException {
        Workflows workflows = new Workflows(database);
        for (Workflows.Summary summary : workflows.all()) {
            WorkflowKey one = new WorkflowKey(summary.key());
            Path to = Files.createDirectories(folder.resolve("workflows").resolve(summary.key()));
            for (Workflows.Published published : workflows.versions(one)) {
                Files.writeString(
                        to.resolve("version-" + published.number() + ".dastur"),
                        Notation.write(
                                workflows.version(one, published.number()).orElseThrow()));
            }
            json(to.resolve("triggers.json"), workflows.triggers(one));
        }
        json(folder.resolve("ladders.json"), workflows.ladders());
        json(folder.resolve("actions.json"), workflows.actions());
        json(folder.resolve("connections.json"), workflows.connections());
        json(folder.resolve("zones.json"), new Relays(database).zones());
        json(folder.resolve("sources.json"), new Sources(database).all());
        json(folder.resolve("watches.json"), new Watches(database).all());
        json(folder.resolve("partners.json"), new Partners(database).all());
        json(folder.resolve("subscriptions.json"), new Subscriptions(database).all());
    }

    private void organisation(Path folder) throws IOException {
        Organisation organisation = new Organisation(database);
        json(folder.resolve("people.json"), organisation.people());
        json(folder.resolve("groups.json"), organisation.groups());
        json(folder.resolve("services.json"), organisation.services());
        json(folder.resolve("calendars.json"), organisation.calendars());
        json(folder.resolve("rotas.json"), organisation.rotas());
        json(folder.resolve("known-answers.json"), new KnownAnswers(database).all());
        Files.writeString(
                folder.resolve("cis.csv"), CiCsv.write(organisation.cis("", MOST_CIS), organisation.fields()));
    }

    private static void json(Path file, Object value) throws IOException {
        Files.writeString(file, Json.mapper().writerWithDefaultPrettyPrinter().writeValueAsString(value) + "\n");
    }
}
