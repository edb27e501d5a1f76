package dastur.server.api;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.expression.Expressions;
import dastur.core.expression.TextTemplate;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.signal.Mapping;
import dastur.core.signal.Origin;
import dastur.core.signal.Reading;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.server.App.Signalling;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.signals.Foreseeing;
import dastur.server.work.CommandService;
import dastur.store.Incoming;
import dastur.store.Samples;
import java.time.InstantSource;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Samples of what sources send (I4): what came, or is kept by a name, read by a mapping and followed through, without any effect. */
final class SampleRoutes {
    private static final int LONGEST_NAME = 80;

    /**
     * A mapping to be tried.
     *
     * @param mapping null for the one that is set
     * @param signal on one that came; null for another
     * @param kept on the sample that is kept by this name; null for another
     * @param raw on a text, JSON; null for another
     */
    record TryBody(
            @Nullable Mapping mapping,
            @Nullable String signal,
            @Nullable String kept,
            @Nullable String raw) {}

    /** What would become of it. @param foreseen null where it was not understood */
    record TrialView(Reading reading, Foreseeing.@Nullable Foreseen foreseen) {}

    /** @param signal the one that came, and is to be kept */
    record KeepBody(String signal) {}

    /** A sample as it came. */
    record SampleView(Samples.Line line, JsonNode headers, JsonNode raw) {}

    private final Signalling signalling;
    private final CommandService commands;
    private final InstantSource clock;

    private SampleRoutes(Signalling signalling, CommandService commands, InstantSource clock) {
        this.signalling = signalling;
        this.commands = commands;
        this.clock = clock;
    }

    static Stream<Route> of(Signalling signalling, CommandService commands, InstantSource clock) {
        SampleRoutes r = new SampleRoutes(signalling, commands, clock);
        return Stream.of(
                Route.post(
                        "/api/sources/{key}/readings",
                        Right.SEE,
                        "Read what came by a mapping, without any effect",
                        TryBody.class,
                        Reading.class,
                        r::read),
                Route.post(
                        "/api/sources/{key}/trials",
                        Right.SEE,
                        "Say what would become of it if it came now, without any effect",
                        TryBody.class,
                        TrialView.class,
                        r::tried),
                Route.post(
                        "/api/sources/{key}/tests",
                        Right.DESIGN,
                        "Have it do what it would do, on a ticket that is a test",
                        TryBody.class,
                        Answers.Accepted.class,
                        r::tested),
                Route.list(
                        "/api/sources/{key}/samples",
                        Right.SEE,
                        "What is kept of what a source sent, by its names",
                        Samples.Line.class,
                        q -> signalling.samples().of(r.found(q).key())),
                Route.get("/api/sources/{key}/samples/{name}", Right.SEE, "A sample", SampleView.class, r::sample),
                Route.put(
                        "/api/sources/{key}/samples/{name}",
                        Right.ADMINISTER,
                        "Keep what came by a name; what else comes goes after 30 days",
                        KeepBody.class,
                        null,
                        r::keep),
                Route.delete("/api/sources/{key}/samples/{name}", Right.ADMINISTER, "Let a sample go", r::forget));
    }

    private Source found(Request q) {
        return signalling.sources().find(q.path("key", SourceKey::new)).orElseThrow(() -> Problem.notFound(
                        "There is no source of this name.")
                .end());
    }

    // --- tried

    private Object read(Request q) {
        Source source = found(q);
        TryBody body = q.body(TryBody.class);
        Source by = by(source, body);
        if (body.signal() != null) {
            Incoming.Whole whole = Given.whole(signalling, source, body.signal());
            return signalling
                    .understanding()
                    .read(by, whole.line().id(), whole.line().cameAt(), whole.headers(), whole.raw());
        }
        return ofNow(by, given(source, body));
    }

    /** @param by the source with the mapping that is tried */
    private record IfNow(Source by, Reading reading) {}

    /** What is given, as it would be read if it came now. */
    private IfNow ifNow(Request q) {
        Source source = found(q);
        TryBody body = q.body(TryBody.class);
        Source by = by(source, body);
        return new IfNow(by, ofNow(by, given(source, body)));
    }

    private Object tried(Request q) {
        IfNow now = ifNow(q);
        Signal signal = now.reading().signal();
        return new TrialView(
                now.reading(), signal == null ? null : signalling.foreseeing().foresee(now.by(), signal));
    }

    private Object tested(Request q) {
        IfNow now = ifNow(q);
        Signal signal = now.reading().signal();
        if (signal == null) {
            throw Problem.conflict("It is not understood, so there is nothing to try: "
                            + now.reading().problem())
                    .end();
        }
        return switch (signalling.foreseeing().test(now.by(), signal)) {
            case Foreseeing.Test.Opens opens ->
                Answers.of(commands.raise(opens.raise().what().kind(), q.commandId(), q.actor(), opens.raise()));
            case Foreseeing.Test.Nothing nothing ->
                throw Problem.conflict("It opens no ticket, so there is nothing to try: " + nothing.why())
                        .end();
        };
    }

    private Reading ofNow(Source by, Given given) {
        return given.readAt(signalling, by, clock.instant());
    }

    private Given given(Source source, TryBody body) {
        if (body.signal() != null) {
            return Given.came(signalling, source, body.signal());
        }
        return body.kept() != null
                ? Given.kept(signalling, source, body.kept())
                : new Given("{}", json(Request.needed(body.raw(), "raw")));
    }

    /** The source with the mapping that is tried. */
    private Source by(Source source, TryBody body) {
        Mapping mapping = body.mapping() == null ? source.mapping() : body.mapping();
        problemWith(signalling, mapping).ifPresent(p -> {
            throw p.end();
        });
        return source.with(mapping);
    }

    /** What is wrong with a mapping; empty where it can be used. */
    static Optional<Problem> problemWith(Signalling signalling, Mapping mapping) {
        Expressions expressions = signalling.understanding().expressions(mapping.own());
        for (int i = 0; i < mapping.rows().size(); i++) {
            if (mapping.rows().get(i).from() instanceof Origin.Text text) {
                var problem = TextTemplate.parse(text.text()).problem(expressions);
                if (problem.isPresent()) {
                    return Optional.of(Problem.invalid(
                            "mapping.rows[" + i + "].from.text", problem.get().message()));
                }
            }
        }
        return Optional.empty();
    }

    private static String json(String raw) {
        try {
            if (raw.length() > 256 * 1024 || !Json.parse(raw).isContainerNode()) {
                throw Problem.invalid("raw", "A sample is a JSON object of at most 256 kB.")
                        .end();
            }
            return raw;
        } catch (JsonProcessingException e) {
            throw Problem.invalid("raw", "This is not JSON.").end();
        }
    }

    // --- kept

    private Object sample(Request q) {
        Samples.Sample sample = Given.sample(signalling, found(q), q.context().pathParam("name"));
        try {
            return new SampleView(sample.line(), Json.parse(sample.headers()), Json.parse(sample.raw()));
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("what was kept is JSON", e);
        }
    }

    private Object keep(Request q) {
        Source source = found(q);
        String name = q.context().pathParam("name").strip();
        if (name.isEmpty() || name.length() > LONGEST_NAME || !Texts.keepable(name) || name.contains("/")) {
            throw Problem.invalid("name", "A sample's name has 1 to 80 characters, and no stroke.")
                    .end();
        }
        Incoming.Whole whole = Given.whole(
                signalling, source, Request.needed(q.body(KeepBody.class).signal(), "signal"));
        if (!signalling.samples().keep(Answers.by(q, clock), source.key(), name, whole.headers(), whole.raw())) {
            throw Problem.conflict("A source has at most " + Samples.MOST + " samples. Let one go first.")
                    .end();
        }
        return null;
    }

    private Object forget(Request q) {
        if (!signalling
                .samples()
                .forget(Answers.by(q, clock), found(q).key(), q.context().pathParam("name"))) {
            throw Problem.notFound("No sample of this name is kept.").end();
        }
        return null;
    }
}
