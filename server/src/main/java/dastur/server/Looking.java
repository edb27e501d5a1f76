package dastur.server;

import dastur.server.witness.Giving;
import dastur.store.Audit;
import dastur.store.Database;
import dastur.store.Keeping;
import dastur.store.Nodes;
import dastur.store.RecordLog;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.concurrent.atomic.AtomicBoolean;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** What an administrator does to look after what is kept, while the application runs: copies, audits, going on after a restore. */
public final class Looking {
    private static final Logger LOG = LoggerFactory.getLogger(Looking.class);
    /** Once a minute, all tickets within seven days (K12). */
    private static final long GOES_A_WEEK = 7 * 24 * 60;

    private static final Duration MATTERS_EVERY = Duration.ofHours(1);
    private static final int MOST_FINDINGS = 100;
    private static final DateTimeFormatter NAME =
            DateTimeFormatter.ofPattern("yyyy-MM-dd'T'HHmmss'Z'").withZone(ZoneOffset.UTC);

    /** An audit that was done. */
    public record Audited(Instant at, Audit.Report report) {}

    private final Database database;
    private final RecordLog log;
    private final Keeping keeping;
    private final Path data;
    private final Giving giving;
    private final AtomicBoolean busy = new AtomicBoolean();
    private volatile @Nullable Audited last;
    private final Duration copiesEvery;
    private final int copiesKept;
    private final List<Audit.Finding> passed = new ArrayList<>();
    private volatile @Nullable String copyTrouble;
    private @Nullable Instant lastOfMatters;

    Looking(Database database, RecordLog log, Settings settings, Giving giving) {
        this.giving = giving;
        this.database = database;
        this.log = log;
        this.keeping = new Keeping(database);
        this.data = settings.data();
        this.copiesEvery = settings.copies().every();
        this.copiesKept = settings.copies().kept();
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
    public List<Giving.Standing> witnesses(Instant now) {
        return giving.standing(now);
    }

    private Audit audit() {
        return new Audit(database, log, giving.receipts());
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
            Audited done = new Audited(at, audit().run(tickets -> {}));
            last = done;
            return done;
        });
    }

    /**
     * What is looked after by itself; to be called each minute, by one node. Some tickets are audited, so that all are within a
     * week, hourly whether each matter has one ticket, and a copy is taken where one is due.
     */
    void inPassing(Instant now) {
        List<Audit.Finding> found = new ArrayList<>(audit().inPassing(now, GOES_A_WEEK));
        if (lastOfMatters == null || !lastOfMatters.plus(MATTERS_EVERY).isAfter(now)) {
            lastOfMatters = now;
            found.addAll(audit().ofMatters());
        }
        for (Audit.Finding f : found) {
            LOG.error("not as written: {}{}: {}", f.where(), f.seq() > 0 ? ", from entry " + f.seq() : "", f.what());
        }
        synchronized (passed) {
            found.stream()
                    .filter(f -> !passed.contains(f))
                    .limit(MOST_FINDINGS - passed.size())
                    .forEach(passed::add);
        }
        if (!copiesEvery.isZero() && !database.isShared()) {
            copyWhenDue(now);
        }
    }

    private void copyWhenDue(Instant now) {
        List<Backup.Taken> there = Backup.in(backups());
        if (!there.isEmpty() && there.getFirst().at().plus(copiesEvery).isAfter(now)) {
            return;
        }
        try {
            if (take(now).isPresent()) {
                copyTrouble = null;
                Backup.in(backups()).stream()
                        .skip(copiesKept)
                        .forEach(old -> Backup.delete(backups().resolve(old.name())));
            }
        } catch (Backup.Damaged | UncheckedIOException e) {
            LOG.error("the copy that is due could not be taken", e);
            copyTrouble = e.getMessage();
        }
    }

    /** Why the last copy that was due could not be taken; empty when it was. */
    public Optional<String> copyTrouble() {
        return Optional.ofNullable(copyTrouble);
    }

    /** How often a copy is taken by itself; zero where none is. */
    public Duration copiesEvery() {
        return database.isShared() ? Duration.ZERO : copiesEvery;
    }

    public int copiesKept() {
        return copiesKept;
    }

    /** How far the audit in passing has come. */
    public Audit.Passing passing() {
        return audit().passing();
    }

    /** What the audit in passing has found since the application was started. */
    public List<Audit.Finding> passed() {
        synchronized (passed) {
            return List.copyOf(passed);
        }
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
