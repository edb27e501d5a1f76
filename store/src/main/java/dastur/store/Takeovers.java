package dastur.store;

import dastur.core.json.Texts;
import dastur.core.partner.PartnerKey;
import dastur.core.people.PersonId;
import dastur.store.Partners.Came;
import dastur.store.Partners.Known;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * What was open at a partner's desk before it was joined, and is taken over: at most one such work a partner at a time (I15). Each of
 * theirs waits in a row of its own, so that a stop or a kill in the middle loses none and takes none twice.
 */
public final class Takeovers {
    /** How far it has come. */
    public enum State {
        READING("reading"),
        TAKING("taking"),
        DONE("done"),
        /** A person has stopped it: what was taken over stays, the rest was let go. */
        STOPPED("stopped"),
        /** It could not begin; nothing was taken over. */
        FAILED("failed");

        private final String word;

        State(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }

        public boolean underWay() {
            return this == READING || this == TAKING;
        }

        static State of(String word) {
            for (State s : values()) {
                if (s.word.equals(word)) {
                    return s;
                }
            }
            throw new IllegalStateException("no state '" + word + "'");
        }
    }

    /**
     * One such work.
     *
     * @param since what was touched there from then on
     * @param taken how many are tickets here now
     * @param refused how many could not be taken over; each says why
     * @param ended how many had ended there, and stay there
     * @param left how many wait
     * @param problem why it has failed, why it does not go on, or that not all could be read; null where all is well
     */
    public record Takeover(
            PartnerKey partner,
            Instant since,
            PersonId by,
            Instant at,
            State state,
            int taken,
            int refused,
            int ended,
            int left,
            @Nullable String problem) {}

    private static final String OF = " where partner = ? and take_at is not null";

    private final Database database;

    public Takeovers(Database database) {
        this.database = database;
    }

    /** The last of a partner. */
    public Optional<Takeover> find(PartnerKey key) {
        return database.read(session -> session.doReturningWork(c -> {
            int left = Jdbc.query(c, "select count(*) from partner_ticket" + OF, r -> r.getInt(1), key.value())
                    .getFirst();
            return Jdbc.query(
                            c,
                            "select since, asked_by, asked_at, state, taken, refused, ended, problem from partner_takeover"
                                    + " where partner = ?",
                            r -> new Takeover(
                                    key,
                                    Partners.needed(r, 1),
                                    new PersonId(r.getString(2)),
                                    Partners.needed(r, 3),
                                    State.of(r.getString(4)),
                                    r.getInt(5),
                                    r.getInt(6),
                                    r.getInt(7),
                                    left,
                                    r.getString(8)),
                            key.value())
                    .stream()
                    .findFirst();
        }));
    }

    /** Begins one. Returns whether it did: one that is under way goes on. */
    public boolean begin(Journal.By by, PartnerKey key, Instant since) {
        return database.write(session -> {
            // First, since it is locked until the end: of two who begin in the same second one begins.
            References.changed(session);
            boolean begins = session.doReturningWork(c -> {
                if (state(c, key).filter(State::underWay).isPresent()) {
                    return false;
                }
                Jdbc.update(c, "delete from partner_takeover where partner = ?", key.value());
                Jdbc.update(
                        c,
                        "insert into partner_takeover (partner, since, asked_by, asked_at, state, taken, refused, ended)"
                                + " values (?, ?, ?, ?, 'reading', 0, 0, 0)",
                        key.value(),
                        since,
                        by.person().value(),
                        by.at());
                return true;
            });
            if (begins) {
                Journal.write(
                        session, by, Partners.KIND, key.value(), "takes over", "what is open there since " + since);
            }
            return begins;
        });
    }

    private static Optional<State> state(Connection c, PartnerKey key) throws SQLException {
        return Jdbc.query(
                        c,
                        "select state from partner_takeover where partner = ?",
                        r -> State.of(r.getString(1)),
                        key.value())
                .stream()
                .findFirst();
    }

    /** Which of these came before. */
    public Set<String> known(PartnerKey key, List<Came> page) {
        return database.read(session -> session.doReturningWork(c -> {
            Set<String> known = new HashSet<>();
            for (Came one : page) {
                if (isKnown(c, key, one.id())) {
                    known.add(one.id());
                }
            }
            return known;
        }));
    }

    private static boolean isKnown(Connection c, PartnerKey key, String id) throws SQLException {
        return !Jdbc.query(
                        c, "select 1 from partner_ticket where partner = ? and their_id = ?", r -> 1, key.value(), id)
                .isEmpty();
    }

    /**
     * Keeps a page of those that are to be taken over, without what came before.
     *
     * @return how many wait now; empty where it was stopped
     */
    public Optional<Integer> keep(PartnerKey key, List<Came> page, Instant now) {
        return database.write(session -> session.doReturningWork(c -> {
            if (!is(c, key, State.READING)) {
                return Optional.empty();
            }
            for (Came one : page) {
                if (!isKnown(c, key, one.id())) {
                    Partners.insert(c, Known.fresh(key, one, now, false));
                    Jdbc.update(
                            c,
                            "update partner_ticket set take_at = ? where partner = ? and their_id = ?",
                            now,
                            key.value(),
                            one.id());
                }
            }
            return Jdbc.query(c, "select count(*) from partner_ticket" + OF, r -> r.getInt(1), key.value()).stream()
                    .findFirst();
        }));
    }

    private static boolean is(Connection c, PartnerKey key, State state) throws SQLException {
        // Whoever stops it meanwhile waits for this, or this for them.
        return Jdbc.update(
                        c,
                        "update partner_takeover set state = state where partner = ? and state = ?",
                        key.value(),
                        state.word())
                == 1;
    }

    /** All were read. @param ended how many of them have ended there @param unread why some could not be read; null where all could */
    public void read(PartnerKey key, int ended, @Nullable String unread) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update partner_takeover set state = 'taking', ended = ?, problem = ?"
                        + " where partner = ? and state = 'reading'",
                ended,
                unread == null ? null : Texts.clip("Not all could be read: " + unread, 1_000),
                key.value())));
    }

    /** Why it does not go on. @param problem null where it does */
    public void problem(PartnerKey key, @Nullable String problem) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update partner_takeover set problem = ? where partner = ? and state in ('reading', 'taking')",
                problem == null ? null : Texts.clip(problem, 1_000),
                key.value())));
    }

    /** It cannot begin: nothing was taken over, and what was read is let go. */
    public void fail(PartnerKey key, String why) {
        database.run(session -> session.doWork(c -> {
            if (is(c, key, State.READING)) {
                Jdbc.update(
                        c,
                        "update partner_takeover set state = 'failed', problem = ? where partner = ?",
                        Texts.clip(why, 1_000),
                        key.value());
                Jdbc.update(c, "delete from partner_ticket" + OF, key.value());
            }
        }));
    }

    /** Stops one, where it is under way. What waits is let go: if it changes there, it comes as any other. */
    public boolean stop(Journal.By by, PartnerKey key) {
        return database.write(session -> {
            References.changed(session);
            boolean stops = session.doReturningWork(c -> {
                boolean stopped = Jdbc.update(
                                c,
                                "update partner_takeover set state = 'stopped', problem = null"
                                        + " where partner = ? and state in ('reading', 'taking')",
                                key.value())
                        == 1;
                if (stopped) {
                    Jdbc.update(c, "delete from partner_ticket" + OF, key.value());
                }
                return stopped;
            });
            if (stops) {
                Journal.write(session, by, Partners.KIND, key.value(), "takes over no more", null);
            }
            return stops;
        });
    }

    /** The next that are to be taken over, as they came first. */
    public List<Known> next(PartnerKey key, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                Partners.SELECT + OF + " order by take_at, their_id fetch first ? rows only",
                Partners::known,
                key.value(),
                most)));
    }

    /** One is done with. Where it was stopped meanwhile, what was done with this one holds all the same. */
    public void done(Known after, Counts counts) {
        database.run(session -> session.doWork(c -> {
            if (!isKnown(c, after.partner(), after.id())) {
                Partners.insert(c, after);
            }
            Jdbc.update(
                    c,
                    "update partner_ticket set take_at = null where partner = ? and their_id = ?",
                    after.partner().value(),
                    after.id());
            Partners.compared(c, after);
            count(c, after.partner(), counts);
        }));
    }

    /** What has ended there before its turn stays there, as if it had not been read. */
    public void leave(Known one) {
        database.run(session -> session.doWork(c -> {
            int waited = Jdbc.update(
                    c,
                    "delete from partner_ticket where partner = ? and their_id = ? and take_at is not null",
                    one.partner().value(),
                    one.id());
            if (waited == 1) {
                count(c, one.partner(), Counts.ENDED);
            }
        }));
    }

    /** What one counts as. */
    public enum Counts {
        TAKEN,
        REFUSED,
        ENDED
    }

    private static void count(Connection c, PartnerKey key, Counts counts) throws SQLException {
        String column =
                switch (counts) {
                    case TAKEN -> "taken";
                    case REFUSED -> "refused";
                    case ENDED -> "ended";
                };
        Jdbc.update(
                c, "update partner_takeover set " + column + " = " + column + " + 1 where partner = ?", key.value());
    }

    /** It is done where none waits any more. */
    public void end(PartnerKey key) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update partner_takeover set state = 'done' where partner = ? and state = 'taking'"
                        + " and not exists (select 1 from partner_ticket t where t.partner = ? and t.take_at is not null)",
                key.value(),
                key.value())));
    }
}
