package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.PersonId;
import dastur.core.record.Seal;
import dastur.core.workflow.Zone;
import dastur.core.workflow.ZoneKey;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Zones, their relays, and the codes by which a relay may ask to join (M13). Times are the database's. */
public final class Relays {
    /** So long a code can be used, once. */
    public static final Duration CODE = Duration.ofMinutes(15);
    /** Not heard of for so long, a relay is out of sight. */
    public static final Duration IN_SIGHT = Duration.ofSeconds(60);

    static final String KIND = "zone";
    private static final String RELAY = "relay";
    private static final int MOST_ASKING = 50;

    /** How a relay stands. */
    public enum Standing {
        /** It has joined by a code, and nobody has let it in yet. */
        ASKS,
        IN,
        /** Nothing it says counts any more. */
        OUT;

        private static Standing of(String word) {
            return Arrays.stream(values())
                    .filter(s -> s.name().equals(word))
                    .findFirst()
                    .orElse(OUT);
        }
    }

    /**
     * A relay.
     *
     * @param key its public key in base64 (X.509 form)
     * @param boot the process that works as it
     * @param seenAt null before it was heard of
     * @param allowed the hash of its file
     * @param may what its file allows, line by line
     * @param twoAt when a second process last worked under its key while the first was in sight; null for never
     */
    public record Relay(
            String id,
            ZoneKey zone,
            String name,
            String key,
            Standing standing,
            Instant joinedAt,
            @Nullable PersonId letInBy,
            @Nullable String boot,
            @Nullable Instant seenAt,
            @Nullable String version,
            @Nullable Integer protocol,
            @Nullable String allowed,
            List<String> may,
            @Nullable Instant twoAt) {}

    /** What became of asking to join. */
    public sealed interface Asked {
        record Ok(Relay relay) implements Asked {}

        /** Nobody made such a code, its time is over, or another has used it. */
        record NoSuchCode() implements Asked {}

        /** A relay is called so already, or so many ask. */
        record NotSo(String why) implements Asked {}
    }

    private final Database database;

    public Relays(Database database) {
        this.database = database;
    }

    // --- zones

    public List<Zone> zones() {
        return database.read(session -> References.documents(session, KIND, Zone.class));
    }

    public Optional<Zone> zone(ZoneKey key) {
        return database.read(session -> References.document(session, KIND, key.value(), Zone.class));
    }

    /** Sets one without a line in the journal; for filling an empty database. */
    public void put(Zone zone) {
        database.run(session -> References.putDocument(session, KIND, zone.key().value(), zone));
    }

    // --- joining

    /** Keeps the hash of a code; only who reads it off the screen knows the code. */
    public void keepCode(Journal.By by, ZoneKey zone, String code) {
        database.run(session -> {
            session.doWork(c -> {
                Jdbc.update(c, "delete from relay_code where until_at < " + in(Duration.ofDays(-1)));
                Jdbc.update(
                        c,
                        "insert into relay_code (hash, zone, made_by, until_at, refused) values (?, ?, ?, " + in(CODE)
                                + ", 0)",
                        Seal.hash(code),
                        zone.value(),
                        by.person().value());
            });
            Journal.write(session, by, KIND, zone.value(), "code made", "for a relay to join by, once");
        });
    }

    private record Code(
            ZoneKey zone,
            PersonId madeBy,
            boolean over,
            @Nullable String relay) {}

    /**
     * A relay asks to join. The same one that asks again, since the answer was lost, gets the same.
     *
     * @param id a fresh one, for a relay that is new
     */
    public Asked join(String id, String code, String name, String key, Instant now) {
        return database.write(session -> session.doReturningWork(c -> {
            Optional<Code> found = code(c, Seal.hash(code));
            Optional<Relay> known = one(c, "public_key = ?", key);
            if (known.isPresent()) {
                boolean same =
                        found.isPresent() && known.get().id().equals(found.get().relay());
                return same ? new Asked.Ok(known.get()) : new Asked.NoSuchCode();
            }
            if (found.isEmpty() || found.get().over() || found.get().relay() != null) {
                // One that was used already and is used again was read by somebody whom it was not for.
                Jdbc.update(c, "update relay_code set refused = refused + 1 where hash = ?", Seal.hash(code));
                return new Asked.NoSuchCode();
            }
            ZoneKey zone = found.get().zone();
            List<Relay> there = relays(c, "zone = ? and standing <> 'OUT'", zone.value());
            if (there.stream().anyMatch(r -> r.name().equals(name))) {
                return new Asked.NotSo(
                        "A relay of this zone is called '" + name + "' already. Give this one another name.");
            }
            if (there.size() >= MOST_ASKING) {
                return new Asked.NotSo("This zone has " + MOST_ASKING + " relays already.");
            }
            int used = Jdbc.update(
                    c, "update relay_code set relay = ? where hash = ? and relay is null", id, Seal.hash(code));
            if (used != 1) {
                return new Asked.NoSuchCode();
            }
            Jdbc.update(
                    c,
                    "insert into relay (id, zone, name, public_key, standing, joined_at, turn) values (?, ?, ?, ?, 'ASKS', "
                            + now() + ", 0)",
                    id,
                    zone.value(),
                    name,
                    key);
            Journal.write(
                    session,
                    new Journal.By(found.get().madeBy(), now),
                    RELAY,
                    id,
                    "asked to join",
                    name + " of " + zone + ", by a code that this person made");
            return new Asked.Ok(one(c, "id = ?", id).orElseThrow());
        }));
    }

    private Optional<Code> code(Connection c, String hash) throws SQLException {
        return Jdbc.query(
                        c,
                        "select zone, made_by, until_at < " + now()
                                + ", relay from relay_code where hash = ? for update",
                        r -> new Code(
                                new ZoneKey(r.getString(1)),
                                new PersonId(r.getString(2)),
                                r.getBoolean(3),
                                r.getString(4)),
                        hash)
                .stream()
                .findFirst();
    }

    /** How often codes of a zone were used by somebody whom they were not for, of late. */
    public int strangers(ZoneKey zone) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select coalesce(sum(refused), 0) from relay_code where zone = ? and relay is not null",
                        r -> r.getInt(1),
                        zone.value())
                .getFirst()));
    }

    /** Lets a relay in, or out for good: what it does not hear of any more, others do. Returns false when there is none. */
    public boolean let(Journal.By by, String id, boolean in) {
        return database.write(session -> session.doReturningWork(c -> {
            int changed = Jdbc.update(
                    c,
                    in
                            ? "update relay set standing = 'IN', let_in_by = ? where id = ? and standing = 'ASKS'"
                            : "update relay set standing = 'OUT', let_in_by = ? where id = ? and standing <> 'OUT'",
                    by.person().value(),
                    id);
            if (changed == 1) {
                Relay relay = one(c, "id = ?", id).orElseThrow();
                Journal.write(session, by, RELAY, id, in ? "let in" : "let go", relay.name() + " of " + relay.zone());
            }
            return changed == 1;
        }));
    }

    // --- what relays say of themselves

    public Optional<Relay> find(String id) {
        return database.read(session -> session.doReturningWork(c -> one(c, "id = ?", id)));
    }

    public List<Relay> all() {
        return database.read(session -> session.doReturningWork(c -> relays(c, "true")));
    }

    /** A process begins to work as a relay; an earlier one is told so when it asks next. */
    public void hello(String id, String boot, int protocol, String version, String allowed, List<String> may) {
        database.run(session -> session.doWork(c -> {
            Jdbc.update(
                    c,
                    "update relay set boot = ?, turn = case when boot = ? then turn else 0 end, protocol = ?, version = ?,"
                            + " allowed = ?, may = ?, seen_at = "
                            + now() + " where id = ?",
                    boot,
                    boot,
                    protocol,
                    version,
                    allowed,
                    Json.write(may),
                    id);
        }));
    }

    /**
     * Counts that a relay asked.
     *
     * @param turn 0 for what may be said again
     * @return false when another process works as it now, or this turn was answered before: it was copied off the line
     */
    public boolean heard(String id, String boot, long turn) {
        return database.write(session -> session.doReturningWork(c -> {
            int counted = Jdbc.update(
                    c,
                    "update relay set seen_at = " + now() + ", turn = greatest(turn, cast(? as bigint))"
                            + " where id = ? and boot = ? and (? = 0 or turn < ?)",
                    turn,
                    id,
                    boot,
                    turn,
                    turn);
            if (counted == 0) {
                // Only a process that goes on after another has greeted shows that there are two: one that was killed
                // is silent.
                Jdbc.update(
                        c,
                        "update relay set two_at = " + now() + " where id = ? and boot is not null and boot <> ?",
                        id,
                        boot);
            }
            return counted == 1;
        }));
    }

    private static Optional<Relay> one(Connection c, String where, Object... values) throws SQLException {
        return relays(c, where, values).stream().findFirst();
    }

    private static List<Relay> relays(Connection c, String where, Object... values) throws SQLException {
        return Jdbc.query(
                c,
                "select id, zone, name, public_key, standing, joined_at, let_in_by, boot, seen_at, version, protocol, allowed,"
                        + " may, two_at from relay where "
                        + where + " order by zone, name, id",
                Relays::read,
                values);
    }

    private static Relay read(ResultSet r) throws SQLException {
        String by = r.getString(7);
        int protocol = r.getInt(11);
        Integer spoken = r.wasNull() ? null : protocol;
        String may = r.getString(13);
        return new Relay(
                r.getString(1),
                new ZoneKey(r.getString(2)),
                r.getString(3),
                r.getString(4),
                Standing.of(r.getString(5)),
                r.getObject(6, OffsetDateTime.class).toInstant(),
                by == null ? null : new PersonId(by),
                r.getString(8),
                at(r, 9),
                r.getString(10),
                spoken,
                r.getString(12),
                may == null ? List.of() : Arrays.asList(Json.read(may, String[].class)),
                at(r, 14));
    }

    static @Nullable Instant at(ResultSet r, int column) throws SQLException {
        OffsetDateTime at = r.getObject(column, OffsetDateTime.class);
        return at == null ? null : at.toInstant();
    }

    private String now() {
        return database.dialect().now();
    }

    private String in(Duration length) {
        return database.dialect().in(length);
    }
}
