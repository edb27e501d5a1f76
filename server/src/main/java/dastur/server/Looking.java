package dastur.server;

import dastur.store.Audit;
import dastur.store.Database;
import dastur.store.Keeping;
import dastur.store.Nodes;
import dastur.store.RecordLog;
import java.nio.file.Path;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.concurrent.atomic.AtomicBoolean;
import org.jspecify.annotations.Nullable;

/** What an administrator does to look after what is kept, while the application runs: copies, audits, going on after a restore. */
public final class Looking {
    private static final DateTimeFormatter NAME =
            DateTimeFormatter.ofPattern("yyyy-MM-dd'T'HHmmss'Z'").withZone(ZoneOffset.UTC);

    /** An audit that was done. */
    public record Audited(Instant at, Audit.Report report) {}

    private final Database database;
    private final RecordLog log;
    private final Keeping keeping;
    private final Path data;
    private final @Nullable WitnessFile witness;
    private final AtomicBoolean busy = new AtomicBoolean();
    private volatile @Nullable Audited last;

    Looking(Database database, RecordLog log, Settings settings, @Nullable WitnessFile witness) {
        this.witness = witness;
        this.database = database;
        this.log = log;
        this.keeping = new Keeping(database);
        this.data = settings.data();
    }

    private Path backups() {
        return data.resolve("backups");
    }

    /** Since when nothing goes out, because the database was restored. */
    public Optional<Instant> heldSince() {
        return keeping.heldSince();
    }

    /** How many nodes share the database; empty where only this process has it. */
    public OptionalInt nodes() {
        return database.isShared() ? OptionalInt.of(new Nodes(database).there().size()) : OptionalInt.empty();
    }

    /** To whom signed statements are given; empty where nobody is named. */
    public Optional<WitnessFile> witness() {
        return Optional.ofNullable(witness);
    }

    public void goOn() {
        keeping.goOn();
    }

    public List<Backup.Taken> backups(int most) {
        return Backup.in(backups()).stream().limit(most).toList();
    }

    /** Takes a copy. Empty while another copy or audit is under way. */
    public Optional<Backup.Taken> take(Instant at) {
        return alone(() -> Backup.take(database, log, data, backups().resolve(NAME.format(at)), at));
    }

    /** Goes through all that is kept. Empty while another copy or audit is under way. */
    public Optional<Audited> audit(Instant at) {
        return alone(() -> {
            log.catchUp();
            Audited done = new Audited(at, new Audit(database, log).run(tickets -> {}));
            last = done;
            return done;
        });
    }

    /** The last audit since the application was started. */
    public Optional<Audited> lastAudit() {
        return Optional.ofNullable(last);
    }

    private <T> Optional<T> alone(java.util.function.Supplier<T> work) {
        if (!busy.compareAndSet(false, true)) {
            return Optional.empty();
        }
        try {
            return Optional.of(work.get());
        } finally {
            busy.set(false);
        }
    }
}
