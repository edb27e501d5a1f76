package dastur.server.api;

import dastur.connectors.relay.Lines;
import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.record.Signing;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Zone;
import dastur.core.workflow.ZoneKey;
import dastur.server.App;
import dastur.server.auth.Secrets;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Relays;
import dastur.store.Relays.Relay;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Private networks and their relays: who may join, who is there, and what each may do (M13, M15). */
final class ZoneRoutes {
    /** How a relay stands, in words of the screen. */
    enum Sight {
        /** Somebody has still to let it in. */
        ASKS,
        IN_SIGHT,
        OUT_OF_SIGHT,
        /** It was let in, and has not been heard of. */
        NEVER_SEEN
    }

    /**
     * A relay.
     *
     * @param fingerprint of its key, as it says itself where it runs
     * @param heardFor seconds since it was heard of last; null before that
     * @param may what its file allows, line by line
     * @param allowed the beginning of its file's hash; relays of one zone should have the same
     * @param two whether a second process used its key within the last day
     * @param under how many calls it is at
     */
    record RelayView(
            String id,
            String name,
            String fingerprint,
            Sight sight,
            @Nullable Long heardFor,
            @Nullable PersonId letInBy,
            @Nullable String version,
            List<String> may,
            @Nullable String allowed,
            boolean two,
            long under) {}

    /**
     * A zone with its relays.
     *
     * @param connections the names of those that lead there
     * @param waiting how many calls no relay has yet
     * @param strangers how often a code was used by another than the one it was for
     */
    record ZoneView(Zone zone, List<RelayView> relays, List<String> connections, long waiting, int strangers) {}

    /**
     * A code, told once.
     *
     * @param code what a relay joins by, once
     * @param minutes so long it can be used
     */
    record CodeView(String code, long minutes) {}

    private static final Duration TWO_SHOWN = Duration.ofDays(1);

    private final App.Design design;
    private final App.Zones zones;
    private final InstantSource clock;

    private ZoneRoutes(App.Design design, App.Zones zones, InstantSource clock) {
        this.design = design;
        this.zones = zones;
        this.clock = clock;
    }

    static Stream<Route> of(App.Design design, App.Zones zones, InstantSource clock) {
        ZoneRoutes r = new ZoneRoutes(design, zones, clock);
        return Stream.of(
                Route.list("/api/zones", Right.SEE, "Private networks and their relays", ZoneView.class, q -> r.all()),
                Route.put("/api/zones/{key}", Right.ADMINISTER, "Set a zone", Zone.class, ZoneView.class, r::set),
                Route.post(
                        "/api/zones/{key}/codes",
                        Right.ADMINISTER,
                        "Make a code by which one relay may ask to join",
                        null,
                        CodeView.class,
                        r::code),
                Route.post(
                        "/api/zones/{key}/relays/{id}/let-in",
                        Right.ADMINISTER,
                        "Let a relay in that asks",
                        null,
                        ZoneView.class,
                        q -> r.let(q, true)),
                Route.post(
                        "/api/zones/{key}/relays/{id}/let-go",
                        Right.ADMINISTER,
                        "Let a relay go: nothing it says counts any more",
                        null,
                        ZoneView.class,
                        q -> r.let(q, false)));
    }

    private List<ZoneView> all() {
        List<Relay> relays = zones.relays().all();
        return zones.relays().zones().stream().map(z -> view(z, relays)).toList();
    }

    private ZoneView view(Zone zone, List<Relay> relays) {
        return new ZoneView(
                zone,
                relays.stream()
                        .filter(r -> r.zone().equals(zone.key()) && r.standing() != Relays.Standing.OUT)
                        .map(this::view)
                        .toList(),
                design.workflows().connections().stream()
                        .filter(c -> c.inZone()
                                .filter(z -> z.zone().equals(zone.key()))
                                .isPresent())
                        .map(Connection::name)
                        .toList(),
                zones.work().waiting(zone.key()),
                zones.relays().strangers(zone.key()));
    }

    private RelayView view(Relay relay) {
        // The machines' time, as the database has it: the demo's clock is moved by hand.
        Instant now = Instant.now();
        Instant seen = relay.seenAt();
        Duration ago = seen == null ? null : Duration.between(seen, now);
        Sight sight = relay.standing() == Relays.Standing.ASKS
                ? Sight.ASKS
                : ago == null
                        ? Sight.NEVER_SEEN
                        : ago.compareTo(Relays.IN_SIGHT) <= 0 ? Sight.IN_SIGHT : Sight.OUT_OF_SIGHT;
        return new RelayView(
                relay.id(),
                relay.name(),
                Lines.read(relay.key()),
                sight,
                ago == null ? null : Math.max(0, ago.toSeconds()),
                relay.letInBy(),
                relay.version(),
                relay.may(),
                relay.allowed() == null ? null : Texts.clip(relay.allowed(), 12),
                relay.twoAt() != null && relay.twoAt().plus(TWO_SHOWN).isAfter(now),
                zones.work().under(relay.id()));
    }

    private Zone zone(Request q) {
        return zones.relays()
                .zone(q.path("key", ZoneKey::new))
                .orElseThrow(() -> Problem.notFound("There is no such zone.").end());
    }

    private Object set(Request q) {
        Zone zone = q.body(Zone.class);
        if (!q.path("key", ZoneKey::new).equals(zone.key())) {
            throw Problem.invalid("key", "A zone has the key it is stored under.")
                    .end();
        }
        SetUpRoutes.name(zone.name());
        design.setUp().zone(Answers.by(q, clock), zone);
        return view(zone, zones.relays().all());
    }

    private Object code(Request q) {
        Zone zone = zone(q);
        String code = Secrets.newToken();
        zones.relays().keepCode(Answers.by(q, clock), zone.key(), code);
        return new CodeView(code + "." + Lines.fingerprint(Signing.publicKey(zones.key())), Relays.CODE.toMinutes());
    }

    private Object let(Request q, boolean in) {
        Zone zone = zone(q);
        String id = q.context().pathParam("id");
        boolean its =
                zones.relays().find(id).filter(r -> r.zone().equals(zone.key())).isPresent();
        if (!its) {
            throw Problem.notFound("This zone has no such relay.").end();
        }
        if (!zones.relays().let(Answers.by(q, clock), id, in)) {
            throw Problem.conflict(
                            in ? "This relay does not ask any more: somebody was quicker." : "It was let go already.")
                    .end();
        }
        return view(zone, zones.relays().all());
    }
}
