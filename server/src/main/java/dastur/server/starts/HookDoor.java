package dastur.server.starts;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.Cause;
import dastur.core.run.Command;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.server.auth.Secrets;
import dastur.server.http.Done;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.signals.Refusals;
import dastur.server.work.CommandService;
import dastur.store.Hooks;
import dastur.store.Schedules;
import dastur.store.Workflows;
import io.github.bucket4j.Bucket;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The door for programs that start a workflow: {@code POST /in/hooks/{trigger}}, with the values of its start form by their names
 * (I9). A call is kept before anything follows from it. Each hook has tokens of its own, and nobody needs an account here.
 */
public final class HookDoor {
    /** Where the address of a hook begins. */
    public static final String AT = Route.IN + "hooks/";

    /** How many tokens are live at a time. */
    public static final int LIVE = 2;

    private static final int MOST_BYTES = 64 * 1024;
    private static final int MOST_UNDER_WAY = 100;
    private static final int AT_ONCE = 50;
    private static final int A_SECOND = 10;
    private static final Pattern WAIT = Pattern.compile("(?:^|[,;\\s])wait=(\\d{1,3})(?:$|[,;\\s])");

    /**
     * What became of a call.
     *
     * @param state how what it started stands: under way, or how that ended; null where nothing was started
     * @param ticket its number, where the hook tells it; else null
     * @param results what the workflow gives when it has ended
     */
    public record Answer(
            String call,
            @Nullable String state,
            @Nullable String ticket,
            @Nullable Map<String, Object> results) {}

    /** What it works with. @param secret a secret's value by its name */
    public record Uses(
            Hooks hooks,
            Schedules schedules,
            Workflows workflows,
            CommandService commands,
            Endings endings,
            Refusals refusals,
            Function<String, Optional<String>> secret,
            InstantSource clock) {}

    private record Open(Trigger.Live live, Trigger.Called when) {
        TriggerId id() {
            return live.trigger().id();
        }
    }

    private final Uses means;
    private final Cache<TriggerId, Bucket> buckets =
            Caffeine.newBuilder().maximumSize(10_000).build();

    private HookDoor(Uses means) {
        this.means = means;
    }

    public static Stream<Route> of(Uses means) {
        HookDoor door = new HookDoor(means);
        return Stream.of(
                Route.post(
                                AT + "{trigger}",
                                Right.ANYBODY,
                                "Start a workflow by its hook, with the values of its start form",
                                null,
                                Answer.class,
                                door::called)
                        .accepted(),
                Route.get(
                        AT + "{trigger}/calls/{call}",
                        Right.ANYBODY,
                        "What became of a call of a hook",
                        Answer.class,
                        door::asked));
    }

    /** The name under which a hook's token is kept. @param which 1 or 2 */
    public static String secretName(TriggerId trigger, int which) {
        // A secret's name is no longer than an id.
        String of = trigger.value().length() <= 70 ? trigger.value() : Seal.hash(trigger.value());
        return "hook." + of + "." + which;
    }

    /** Whether a secret of this name is a hook's. */
    public static boolean isOfHook(String name) {
        return name.startsWith("hook.");
    }

    /** Under which refusals of a hook are counted. */
    public static SourceKey refusedAt(TriggerId trigger) {
        return new SourceKey(trigger.value().length() <= 70 ? "hook." + trigger : "hook." + Seal.hash(trigger.value()));
    }

    // --- a call

    private Object called(Request q) {
        Open hook = proved(q);
        if (!passes(hook.id())) {
            throw refused(hook, "too fast", Problem.tooFast("This hook takes 10 calls a second."));
        }
        byte[] body = q.context().bodyAsBytes();
        if (body.length > MOST_BYTES) {
            throw refused(hook, "too large", Problem.tooLarge(MOST_BYTES));
        }
        Map<String, Object> inputs = inputs(hook, new String(body, java.nio.charset.StandardCharsets.UTF_8));
        Hooks.Call call = kept(hook, q, body);
        if (call.ticket() == null && call.problem() == null) {
            call = begun(hook, call, inputs);
        } else if (call.problem() != null) {
            throw Problem.invalid(null, call.problem()).end();
        }
        return answered(q, hook, call);
    }

    /** A hook that is not there and one that is shut are told to whoever has its token, and to nobody else. */
    private Open proved(Request q) {
        TriggerId id = q.path("trigger", TriggerId::new);
        Optional<Open> hook = means.workflows().liveTriggers().stream()
                .filter(t -> t.trigger().id().equals(id) && t.trigger().when() instanceof Trigger.Called)
                .map(t -> new Open(t, (Trigger.Called) t.trigger().when()))
                .findFirst();
        if (hook.isEmpty()) {
            throw Problem.notFound("There is no hook of this name.").end();
        }
        String given = q.context().header("Authorization");
        if (given == null || !given.regionMatches(true, 0, "Bearer ", 0, 7)) {
            throw refused(
                    hook.get(), "no token", Problem.notProved("Send the hook's token: 'Authorization: Bearer …'."));
        }
        boolean fits = false;
        for (String secret : IntStream.rangeClosed(1, LIVE)
                .mapToObj(i -> means.secret().apply(secretName(id, i)))
                .flatMap(Optional::stream)
                .toList()) {
            // Each is compared, so that the time says nothing.
            fits |= Secrets.same(given.substring(7).strip(), secret);
        }
        if (!fits) {
            throw refused(hook.get(), "wrong token", Problem.notProved("The token is not one of this hook."));
        }
        if (!hook.get().live().trigger().on()) {
            throw refused(
                    hook.get(),
                    "shut",
                    Problem.conflict("This hook is switched off at this moment; nothing was taken."));
        }
        return hook.get();
    }

    private boolean passes(TriggerId id) {
        return buckets.get(id, k -> Bucket.builder()
                        .addLimit(l -> l.capacity(AT_ONCE).refillGreedy(A_SECOND, Duration.ofSeconds(1)))
                        .build())
                .tryConsume(1);
    }

    private Map<String, Object> inputs(Open hook, String body) {
        if (body.isBlank()) {
            return Map.of();
        }
        try {
            JsonNode tree = Json.parse(body);
            if (!tree.isObject()) {
                throw refused(
                        hook,
                        "not readable",
                        Problem.malformed(null, "Send a JSON object: the values by their names."));
            }
            return new LinkedHashMap<>(Json.readMap(body));
        } catch (JsonProcessingException | IllegalArgumentException e) {
            throw refused(hook, "not readable", Problem.malformed(null, "The body is not JSON."));
        }
    }

    private Hooks.Call kept(Open hook, Request q, byte[] body) {
        String key = q.context().header("Idempotency-Key");
        if (key != null && key.length() > 200) {
            throw refused(
                    hook,
                    "not readable",
                    Problem.malformed("Idempotency-Key", "An Idempotency-Key has at most 200 characters."));
        }
        String agent = Optional.ofNullable(q.context().userAgent()).orElse("a program");
        Hooks.Call call = new Hooks.Call(
                UUID.randomUUID().toString(),
                hook.id(),
                means.clock().instant(),
                Seal.hash(new String(body, java.nio.charset.StandardCharsets.ISO_8859_1)),
                Texts.clip(agent.replaceAll("[\\p{Cc}]", " "), 200) + " at " + q.address(),
                null,
                null,
                null);
        Hooks.Call kept = means.hooks().keep(call, key == null ? null : Seal.hash(key));
        if (!kept.bodyHash().equals(call.bodyHash())) {
            throw refused(
                    hook,
                    "another body",
                    Problem.invalid("Idempotency-Key", "Under this key something else came before."));
        }
        return kept;
    }

    /** Also for one that came before and was cut off: what it starts goes by the call's id, and starts once. */
    private Hooks.Call begun(Open hook, Hooks.Call call, Map<String, Object> inputs) {
        if (means.schedules().underWay(hook.id()) >= MOST_UNDER_WAY) {
            throw refused(
                    hook,
                    "too many",
                    Problem.tooFast("Of what this hook has started, " + MOST_UNDER_WAY + " are still under way."));
        }
        Command raise = new Command.RaiseByCause(
                new Cause.Call(hook.id(), call.id()), hook.live(), Timekeeper.title(hook.live()), inputs);
        CommandService.Outcome outcome = means.commands()
                .raise(
                        hook.when().kind(),
                        "hook." + call.id(),
                        new Actor.Outside(hook.id().value()),
                        raise);
        return switch (outcome) {
            case CommandService.Outcome.Done done -> {
                TicketId ticket = new TicketId(done.ticket());
                means.hooks().came(call.id(), ticket, null);
                yield means.hooks().find(hook.id(), call.id()).orElseThrow();
            }
            case CommandService.Outcome.Refused no -> {
                means.hooks().came(call.id(), null, no.refusal().message());
                throw refused(hook, "wrong values", Problem.of(no.refusal()));
            }
        };
    }

    private Object answered(Request q, Open hook, Hooks.Call call) {
        q.context().header("Location", AT + hook.id() + "/calls/" + call.id());
        Duration wait = wait(q.context().header("Prefer"));
        Optional<Endings.Ended> ended = call.ticket() == null || wait.isZero()
                ? Optional.empty()
                : means.endings().within(call.ticket(), wait);
        Answer answer = answer(hook, means.hooks().find(hook.id(), call.id()).orElse(call));
        return ended.isPresent() ? new Done(answer) : answer;
    }

    /** How long the caller wants to wait (RFC 7240), at most half a minute. */
    private static Duration wait(@Nullable String prefer) {
        Matcher asked = WAIT.matcher(prefer == null ? "" : prefer);
        return asked.find() ? Duration.ofSeconds(Math.min(30, Integer.parseInt(asked.group(1)))) : Duration.ZERO;
    }

    // --- what became of it

    private Object asked(Request q) {
        Open hook = proved(q);
        Hooks.Call call = means.hooks()
                .find(hook.id(), q.path("call", Function.identity()))
                .orElseThrow(() -> Problem.notFound("There was no such call.").end());
        return answer(hook, call);
    }

    private Answer answer(Open hook, Hooks.Call call) {
        Optional<Endings.Ended> ended =
                call.ticket() == null ? Optional.empty() : means.endings().of(call.ticket());
        boolean tells = Boolean.TRUE.equals(hook.when().tellsTicket());
        return new Answer(
                call.id(),
                call.ticket() == null ? null : ended.map(Endings.Ended::result).orElse("under way"),
                tells && call.ticket() != null ? call.ticket().value() : null,
                ended.map(Endings.Ended::results).filter(r -> !r.isEmpty()).orElse(null));
    }

    private Problem.Ended refused(Open hook, String reason, Problem problem) {
        Instant now = means.clock().instant();
        means.refusals().count(refusedAt(hook.id()), reason, problem.detail(), now);
        return problem.end();
    }
}
