package dastur.server.api;

import dastur.core.people.GroupId;
import dastur.core.people.Right;
import dastur.core.signal.Mapping;
import dastur.core.signal.Matter;
import dastur.core.signal.Network;
import dastur.core.signal.Silence;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.server.App.Design;
import dastur.server.App.Signalling;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.signals.Proving;
import dastur.store.Incoming;
import dastur.store.Organisation;
import dastur.store.SetUp;
import dastur.store.StoredSecrets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Sources: who may send, what their words mean, what came of them (I1–I4). */
final class SourceRoutes {
    private static final int REFUSALS_SHOWN = 30;
    private static final int MOST_SOURCES = 200;
    private static final int TO_KNOW_WHAT_IS_USUAL = 50;

    /**
     * A source in a list.
     *
     * @param day how many signals came within a day
     * @param notUnderstood how many of them were not understood
     * @param last when the last came; null for never
     * @param silentSince since when it is told that nothing comes from it; null while that is not told
     */
    record SourceLine(
            SourceKey key,
            String name,
            boolean open,
            Source.Proof proof,
            Source.Otherwise otherwise,
            long day,
            long notUnderstood,
            @Nullable Instant last,
            @Nullable Instant silentSince) {}

    /** That there is a secret. @param which the first or the second */
    record SecretLine(int which, Instant at) {}

    /**
     * One whole.
     *
     * @param path where senders post to, on this server
     * @param syslogPort where lines of syslog are taken; null where none are
     * @param usuallySeconds how long it usually is from one to the next; null where too few have come
     */
    record SourceView(
            Source source,
            SourceLine line,
            String path,
            @Nullable Integer syslogPort,
            List<SecretLine> secrets,
            List<Incoming.Refused> refused,
            @Nullable Long usuallySeconds) {}

    /**
     * @param neverQuiet whether its faults are told in planned work too; left out for not
     * @param group who gets the incidents that it opens by itself; null for nobody in particular
     * @param from addresses and networks that its lines of syslog come from; only where nothing else is shown
     * @param silentAfterMinutes after how long without anything that is told, 5 to 20,160; null for never
     * @param post to which address mail comes, and of whom it is taken; only where that is how it comes
     */
    record SourceBody(
            String name,
            Boolean open,
            Source.Proof proof,
            Mapping mapping,
            Source.Otherwise otherwise,
            @Nullable Boolean neverQuiet,
            @Nullable String group,
            @Nullable List<String> from,
            @Nullable Integer silentAfterMinutes,
            @Nullable PostBody post) {}

    /** Mail of machines. @param senders addresses, or whole domains such as {@code @kestrel.example} */
    record PostBody(String to, @Nullable List<String> senders) {}

    record NewSecretBody(Integer which) {}

    /** A secret that was just made. It is shown this once. */
    record NewSecretView(String secret) {
        @Override
        public String toString() {
            return "NewSecretView";
        }
    }

    private final Signalling signalling;
    private final SetUp setUp;
    private final StoredSecrets secrets;
    private final Organisation organisation;
    private final Supplier<List<String>> desk;
    private final InstantSource clock;

    private SourceRoutes(Signalling signalling, Design design, InstantSource clock) {
        this.signalling = signalling;
        this.setUp = design.setUp();
        this.secrets = design.secrets();
        this.organisation = design.organisation();
        this.desk = () -> design.channels().ownAddresses();
        this.clock = clock;
    }

    static Stream<Route> of(Signalling signalling, Design design, InstantSource clock) {
        SourceRoutes r = new SourceRoutes(signalling, design, clock);
        return Stream.of(
                Route.list("/api/sources", Right.SEE, "The sources of signals", SourceLine.class, q -> r.all()),
                Route.get("/api/sources/{key}", Right.SEE, "A source", SourceView.class, r::one),
                Route.put(
                        "/api/sources/{key}",
                        Right.ADMINISTER,
                        "Set a source",
                        SourceBody.class,
                        SourceView.class,
                        r::set),
                Route.post(
                        "/api/sources/{key}/secrets",
                        Right.ADMINISTER,
                        "Make a secret for a source; it is shown once",
                        NewSecretBody.class,
                        NewSecretView.class,
                        r::newSecret),
                Route.delete(
                        "/api/sources/{key}/secrets/{which}",
                        Right.ADMINISTER,
                        "Take a secret of a source away",
                        r::removeSecret));
    }

    private List<SourceLine> all() {
        return signalling.sources().all().stream().map(this::line).toList();
    }

    private SourceLine line(Source s) {
        Incoming.Traffic traffic = signalling.incoming().traffic(s.key(), clock.instant());
        return new SourceLine(
                s.key(),
                s.name(),
                s.open(),
                s.proof(),
                s.otherwise(),
                traffic.day(),
                traffic.notUnderstood(),
                traffic.last(),
                s.silentAfterMinutes() == null ? null : silentSince(s.key()));
    }

    private @Nullable Instant silentSince(SourceKey key) {
        return signalling
                .matters()
                .find(Silence.matter(key))
                .map(held -> held.matter().standing())
                .filter(standing -> standing.inFault().contains(key))
                .map(Matter.Standing::since)
                .orElse(null);
    }

    private Source found(Request q) {
        return signalling.sources().find(q.path("key", SourceKey::new)).orElseThrow(() -> Problem.notFound(
                        "There is no source of this name.")
                .end());
    }

    private Object one(Request q) {
        return view(found(q));
    }

    private SourceView view(Source s) {
        List<SecretLine> there = new ArrayList<>();
        for (StoredSecrets.Known known : secrets.all()) {
            for (int which = 1; which <= Proving.LIVE; which++) {
                if (known.name().equals(Proving.name(s.key(), which))) {
                    there.add(new SecretLine(which, known.at()));
                }
            }
        }
        return new SourceView(
                s,
                line(s),
                Route.IN + s.key(),
                signalling.syslog() == null ? null : signalling.syslog().port(),
                there,
                signalling.incoming().refusals(s.key(), REFUSALS_SHOWN),
                Silence.usually(signalling.incoming().lastTimes(s.key(), TO_KNOW_WHAT_IS_USUAL))
                        .map(Duration::toSeconds)
                        .orElse(null));
    }

    private Object set(Request q) {
        SourceKey key = q.path("key", SourceKey::new);
        SourceBody body = q.body(SourceBody.class);
        Source source;
        try {
            source = new Source(
                    key,
                    Request.needed(body.name(), "name").strip(),
                    Request.needed(body.open(), "open"),
                    Request.needed(body.proof(), "proof"),
                    Request.needed(body.mapping(), "mapping"),
                    Request.needed(body.otherwise(), "otherwise"),
                    Boolean.TRUE.equals(body.neverQuiet()),
                    body.group(),
                    networks(body),
                    null,
                    post(body));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("name", e.getMessage()).end();
        }
        try {
            source = source.silentAfter(body.silentAfterMinutes());
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("silentAfterMinutes", e.getMessage()).end();
        }
        taken(source).ifPresent(p -> {
            throw p.end();
        });
        if (source.group() != null && !isGroup(source.group())) {
            throw Problem.invalid("group", "There is no such group.").end();
        }
        SampleRoutes.problemWith(signalling, source.mapping()).ifPresent(p -> {
            throw p.end();
        });
        Optional<Source> before = signalling.sources().find(key);
        if (before.isEmpty() && signalling.sources().all().size() >= MOST_SOURCES) {
            throw Problem.invalid("key", "There are at most " + MOST_SOURCES + " sources.")
                    .end();
        }
        if (before.isPresent()
                && before.get().proof() != source.proof()
                && !view(source).secrets().isEmpty()) {
            throw Problem.invalid(
                            "proof",
                            "Its secrets are of the other kind. Take them away first, then make new ones for its senders.")
                    .end();
        }
        setUp.source(Answers.by(q, clock), source);
        return view(source);
    }

    private static List<Network> networks(SourceBody body) {
        List<String> from = body.from() == null ? List.of() : body.from();
        if (body.proof() != Source.Proof.ADDRESS && !from.isEmpty()) {
            throw Problem.invalid("from", "Only a source of syslog is known by where it sends from.")
                    .end();
        }
        List<Network> all = new ArrayList<>();
        for (int i = 0; i < from.size(); i++) {
            try {
                all.add(new Network(from.get(i)));
            } catch (IllegalArgumentException e) {
                throw Problem.invalid("from[" + i + "]", e.getMessage()).end();
            }
        }
        return all;
    }

    private static Source.@Nullable Post post(SourceBody body) {
        if (body.proof() != Source.Proof.MAIL) {
            if (body.post() != null) {
                throw Problem.invalid("post", "Only a source of mail has an address of mail.")
                        .end();
            }
            return null;
        }
        PostBody given = Request.needed(body.post(), "post");
        String to = Request.needed(given.to(), "post.to");
        try {
            return new Source.Post(to, given.senders() == null ? List.of() : given.senders());
        } catch (IllegalArgumentException e) {
            boolean ofTo =
                    String.valueOf(e.getMessage()).contains("'" + to.strip().toLowerCase(Locale.ROOT) + "'");
            throw Problem.invalid(ofTo ? "post.to" : "post.senders", String.valueOf(e.getMessage()))
                    .end();
        }
    }

    /** Nobody could say of a mail to the desk's own address, or to that of two sources, whose it is. */
    private Optional<Problem> takenAddress(Source source) {
        Source.Post post = source.post();
        if (post == null) {
            return Optional.empty();
        }
        if (desk.get().stream().anyMatch(a -> a.equalsIgnoreCase(post.to()))) {
            return Optional.of(Problem.invalid(
                    "post.to", "This is the desk's own address, where people answer; give the machines another."));
        }
        return signalling.sources().all().stream()
                .filter(s -> !s.key().equals(source.key()))
                .filter(s -> s.post() != null && s.post().to().equals(post.to()))
                .map(s -> Problem.invalid("post.to", "'" + s.name() + "' takes what comes to " + post.to() + "."))
                .findFirst();
    }

    /** Of what comes from an address that two sources name nobody could say whose it is. */
    private Optional<Problem> taken(Source source) {
        Optional<Problem> post = takenAddress(source);
        return post.isPresent() ? post : takenNetwork(source);
    }

    private Optional<Problem> takenNetwork(Source source) {
        return signalling.sources().all().stream()
                .filter(s -> !s.key().equals(source.key()))
                .flatMap(s -> s.from().stream()
                        .filter(n -> source.from().stream().anyMatch(n::meets))
                        .map(n -> Problem.invalid("from", "'" + s.name() + "' takes what comes from " + n + ".")))
                .findFirst();
    }

    private boolean isGroup(String group) {
        try {
            return organisation.group(new GroupId(group)).isPresent();
        } catch (IllegalArgumentException e) {
            return false;
        }
    }

    /** Texts of a mapping are written by whoever sets it up: what is wrong with one is said before it meets a signal. */
    private Object newSecret(Request q) {
        Source source = found(q);
        if (!source.proof().proves()) {
            throw Problem.conflict(
                            "What comes as syslog or by mail shows no secret: it is known by where it is sent from.")
                    .end();
        }
        int which = which(String.valueOf(q.body(NewSecretBody.class).which()));
        String secret = Proving.fresh(source.proof());
        secrets.set(Answers.by(q, clock), Proving.name(source.key(), which), secret);
        return new NewSecretView(secret);
    }

    private Object removeSecret(Request q) {
        Source source = found(q);
        int which = which(q.context().pathParam("which"));
        if (!secrets.remove(Answers.by(q, clock), Proving.name(source.key(), which))) {
            throw Problem.notFound("It has no such secret.").end();
        }
        return null;
    }

    private static int which(String text) {
        return switch (text) {
            case "1" -> 1;
            case "2" -> 2;
            default ->
                throw Problem.invalid("which", "A source has a first and a second secret: 1 or 2.")
                        .end();
        };
    }
}
