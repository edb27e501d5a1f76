package dastur.server;

import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import dastur.server.witness.FileWitness;
import dastur.server.witness.Giving;
import dastur.store.Audit;
import dastur.store.Database;
import dastur.store.Durability;
import dastur.store.Keeping;
import dastur.store.Rebuilding;
import dastur.store.RecordLog;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** Looking after what is kept, while the application does not run: audit, rebuilding, copies and bringing one back. */
final class KeepingCommands {
    private KeepingCommands() {}

    private abstract static class OnData implements Callable<Integer> {
        @Option(
                names = "--data",
                required = true,
                description = "Folder of the database; no application may be using it.")
        Path data;

        @CommandLine.Mixin
        OnServer onServer = new OnServer();

        @CommandLine.Spec
        CommandLine.Model.CommandSpec spec;

        @Override
        public Integer call() throws IOException {
            DataFolder folder = new DataFolder(data);
            Database.Server server = onServer.server(folder);
            if (server == null && !Files.exists(data.resolve(Database.FILE))) {
                throw new IOException("There is no database in " + data + ".");
            }
            try (Database database = server == null
                    ? Database.inFolder(data, Durability.POWER, folder.rowKey())
                    : Database.onServer(server, folder.rowKey())) {
                return on(database, new RecordLog(database, folder.signer()));
            }
        }

        abstract int on(Database database, RecordLog log) throws IOException;

        void say(String line) {
            spec.commandLine().getOut().println(line);
            spec.commandLine().getOut().flush();
        }
    }

    @Command(
            name = "audit",
            description =
                    "Goes through everything that is kept: the log, every record, and what stands beside them. Exit 0 when all of it is as it was written, 1 when not.")
    static final class AuditAll extends OnData {
        @Option(
                names = "--witness",
                description = "A file to which signed statements were given: the log must be theirs.")
        private Path witness;

        @Option(
                names = "--authority",
                description =
                        "The certificate of the time-stamping authority, PEM or DER: stamps that are kept must be its own.")
        private Path authority;

        @Override
        int on(Database database, RecordLog log) throws IOException {
            log.catchUp();
            Audit audit =
                    new Audit(database, log, authority == null ? Witnessed.Receipts.NONE : Giving.receipts(authority));
            Audit.Report report = audit.run(done -> say(done + " tickets…"));
            if (witness != null) {
                List<Checkpoint> kept = FileWitness.read(witness);
                report.findings().addAll(audit.against(kept));
                say("compared with " + kept.size() + " statements that a witness kept");
            }
            report.findings()
                    .forEach(f -> say(f.where() + (f.seq() > 0 ? ", from entry " + f.seq() : "") + ": " + f.what()));
            say(report.leaves() + " changes in the log, " + report.checkpoints() + " checkpoints, " + report.tickets()
                    + " tickets with " + report.entries() + " entries: "
                    + (report.findings().isEmpty()
                            ? "all as written."
                            : report.findings().size() + (report.findings().size() == 1 ? " thing is" : " things are")
                                    + " NOT as written."));
            return report.findings().isEmpty() ? 0 : 1;
        }
    }

    @Command(
            name = "rebuild",
            description =
                    "Makes what stands beside records (lists, desks, waits, calls to make) anew from the records.")
    static final class Rebuild extends OnData {
        @Override
        int on(Database database, RecordLog log) {
            log.catchUp();
            long tickets = new Rebuilding(database).all(done -> say(done + " tickets…"));
            say("Made anew from " + tickets + " records.");
            return 0;
        }
    }

    @Command(
            name = "backup",
            description =
                    "Takes a copy of everything into a new folder, audits and signs it. While the application runs, use its page instead.")
    static final class Take extends OnData {
        @Parameters(paramLabel = "TO", description = "A folder that is not there yet.")
        private Path to;

        @Override
        int on(Database database, RecordLog log) {
            Backup.Taken taken = Backup.take(database, log, data, to.toAbsolutePath(), Instant.now());
            say("Copied " + taken.bytes() + " bytes, " + taken.tickets() + " tickets audited, the log has "
                    + taken.size() + " changes.");
            return 0;
        }
    }

    @Command(
            name = "restore",
            description =
                    "Brings a copy back into a folder without a database. Nothing goes out from it until an administrator says so.")
    static final class Restore implements Callable<Integer> {
        @Parameters(paramLabel = "FROM", description = "The copy.")
        private Path from;

        @Option(names = "--data", required = true, description = "Where to; it must not hold a database.")
        private Path data;

        @Option(names = "--key", description = "The public key that must have signed the copy, in base64.")
        private String key;

        @Option(names = "--by", required = true, description = "Who restores; it stands in the log.")
        private String by;

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Override
        public Integer call() {
            Backup.Taken taken = Backup.restore(from.toAbsolutePath(), data.toAbsolutePath(), key, by, Instant.now());
            spec.commandLine()
                    .getOut()
                    .println("Restored what was kept at " + taken.at() + ". Its log goes on as epoch "
                            + (taken.epoch() + 1) + "; nothing goes out until an administrator says so.");
            return 0;
        }
    }

    @Command(
            name = "restored",
            description =
                    "Says that the database on a server was brought back from a copy: begins a new epoch of its log. Nothing goes out from it until an administrator says so.")
    static final class Restored extends OnData {
        @Option(names = "--by", required = true, description = "Who restored it; it stands in the log.")
        private String by;

        @Override
        int on(Database database, RecordLog log) {
            Checkpoint.Reach reach = new Keeping(database).beginEpoch(by, "a copy of the server's", Instant.now());
            new DataFolder(data).signedLast().keep(reach);
            say("The log goes on as epoch " + reach.epoch() + "; nothing goes out until an administrator says so.");
            return 0;
        }
    }

    @Command(
            name = "export",
            description =
                    "Writes everything as open files: records as NDJSON, workflows as text, CIs and people as CSV, attached files.")
    static final class ExportAll extends OnData {
        @Parameters(paramLabel = "TO", description = "A folder that is not there yet.")
        private Path to;

        @Override
        int on(Database database, RecordLog log) throws IOException {
            long tickets = new WholeExport(database, log, new DataFolder(data).signingKey()).to(to, Instant.now());
            say("Written: " + tickets + " records, and what they are about, to " + to + ".");
            return 0;
        }
    }
}
