package dastur.server.api;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.RuleSeen;
import dastur.core.run.RunId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * A run from beginning to end in one document (N50, N53, N55): what went in, each step with planned and actual times, who
 * did it, its outcome, values and checks, and what came out. Made from the record alone.
 */
final class RunSummary {
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss", Locale.ROOT);

    /** A label with what stands beside it. */
    record Line(String label, String value) {}

    /**
     * A passage through a step.
     *
     * @param due until when it was to be done; null where nothing was planned
     * @param overrunSeconds by how much it was late; 0 when it was in time or nothing was planned
     * @param by who did it; null for the workflow itself
     */
    record StepLine(
            String visit,
            String step,
            String name,
            Instant openedAt,
            @Nullable Instant endedAt,
            @Nullable Instant due,
            long overrunSeconds,
            @Nullable String by,
            @Nullable String exit,
            List<Line> lines) {}

    record Summary(
            String ticket,
            String title,
            String run,
            String workflow,
            int version,
            Instant startedAt,
            @Nullable Instant endedAt,
            @Nullable String result,
            List<Line> inputs,
            List<StepLine> steps,
            List<Line> results) {}

    private static final class Passage {
        final String step;
        final Instant openedAt;
        final List<Line> lines = new ArrayList<>();

        @Nullable Instant endedAt;

        @Nullable Instant due;

        @Nullable String by;

        @Nullable String exit;

        Passage(String step, Instant openedAt) {
            this.step = step;
            this.openedAt = openedAt;
        }
    }

    private final Function<PersonId, String> names;
    private final Map<String, Passage> passages = new LinkedHashMap<>();
    private List<Line> inputs = List.of();
    private List<Line> results = List.of();
    private @Nullable Instant startedAt;
    private @Nullable Instant endedAt;
    private @Nullable String result;
    private String name = "";
    private int version;

    private RunSummary(Function<PersonId, String> names) {
        this.names = names;
    }

    static Summary of(
            String ticket,
            String title,
            RunId run,
            List<Recorded> record,
            Function<PersonId, String> names,
            Function<Integer, WorkflowVersion> versions) {
        RunSummary s = new RunSummary(names);
        record.stream().filter(r -> run.equals(r.run())).forEach(s::take);
        WorkflowVersion version = versions.apply(s.version);
        List<StepLine> steps = new ArrayList<>();
        s.passages.forEach((visit, p) -> steps.add(new StepLine(
                visit,
                p.step,
                version.find(new dastur.core.workflow.StepId(p.step))
                        .map(x -> x.name())
                        .orElse(p.step),
                p.openedAt,
                p.endedAt,
                p.due,
                late(p),
                p.by,
                p.exit,
                p.lines)));
        return new Summary(
                ticket,
                title,
                run.value(),
                s.name,
                s.version,
                s.startedAt == null ? Instant.EPOCH : s.startedAt,
                s.endedAt,
                s.result,
                s.inputs,
                steps,
                s.results);
    }

    private static long late(Passage p) {
        return p.due == null || p.endedAt == null || !p.endedAt.isAfter(p.due)
                ? 0
                : Duration.between(p.due, p.endedAt).toSeconds();
    }

    private void take(Recorded r) {
        switch (r.event()) {
            case Event.RunStarted e -> {
                startedAt = r.at();
                name = e.name();
                version = e.version();
                inputs = lines(e.inputs());
            }
            case Event.RunEnded e -> {
                endedAt = r.at();
                result = e.result();
                results = lines(e.results());
            }
            default -> {
                if (r.visit() != null && r.step() != null) {
                    Passage p = passages.computeIfAbsent(
                            r.visit().value(), v -> new Passage(r.step().value(), r.at()));
                    passage(p, r);
                }
            }
        }
    }

    private void passage(Passage p, Recorded r) {
        switch (r.event()) {
            case Event.TaskOffered e -> p.due = e.due();
            case Event.TaskDone e -> {
                p.lines.addAll(lines(e.form()));
                note(p, "Note", e.note());
            }
            case Event.TaskLeftOut e -> note(p, "Left out", e.reason());
            case Event.ApprovalAsked e -> {
                p.due = e.due();
                p.lines.addAll(lines(e.values()));
            }
            case Event.VoteCast e -> {
                String said = (e.yes() ? "yes" : "no")
                        + (e.condition() == null ? "" : ", on the condition: " + e.condition())
                        + (e.comment() == null ? "" : ": " + e.comment());
                p.lines.add(new Line(names.apply(e.by()), said));
            }
            case Event.AskedBack e -> note(p, names.apply(e.by()) + " asked", e.text());
            case Event.AnsweredBack e -> note(p, names.apply(e.by()) + " answered", e.text());
            case Event.CallRequested e -> p.lines.addAll(lines(e.inputs()));
            case Event.CallDone e -> {
                p.lines.addAll(lines(e.outputs()));
                note(p, "Reference", e.reference());
                note(p, "Link", e.link());
            }
            case Event.CallFailed e -> note(p, "Failed", e.error());
            case Event.Checked e -> rules(p, e.last());
            case Event.Reviewed e -> note(p, names.apply(e.by()) + " said " + e.verdict(), e.reason());
            case Event.CallInBegan e -> p.due = e.until();
            case Event.WaitBegan e -> p.due = e.until();
            case Event.FileAttached e -> note(p, "File", e.name() + ", SHA-256 " + e.hash());
            case Event.SentRunBegan e -> note(p, "Runs on", e.run().ticket().value());
            case Event.ReplyCame e -> note(p, names.apply(e.by()) + " replied", e.text());
            case Event.CalledEnded e -> p.lines.addAll(lines(e.results()));
            case Event.Stalled e -> note(p, "Stalled", e.why());
            case Event.Intervened e -> note(p, "Helped: " + e.kind().word(), e.reason());
            default -> {}
        }
        boolean ends = r.event() instanceof Event.Leaving l && l.exit() != null
                || r.event() instanceof Event.Ended
                || r.event() instanceof Event.Withdrawn;
        if (ends) {
            p.endedAt = r.at();
            p.exit = r.event() instanceof Event.Leaving l
                    ? l.exit()
                    : r.event() instanceof Event.Ended e ? e.result() : "withdrawn";
            p.by = r.actor() instanceof Actor.OfPerson a ? names.apply(a.person()) : null;
        }
    }

    private static void rules(Passage p, @Nullable List<RuleSeen> rules) {
        if (rules != null) {
            rules.forEach(rule -> p.lines.add(new Line((rule.holds() ? "✓ " : "✗ ") + rule.name(), rule.why())));
        }
    }

    private static void note(Passage p, String label, @Nullable String text) {
        if (text != null && !text.isBlank()) {
            p.lines.add(new Line(label, text));
        }
    }

    private static List<Line> lines(@Nullable Map<String, Object> values) {
        if (values == null) {
            return List.of();
        }
        return values.entrySet().stream()
                .map(e -> new Line(e.getKey(), e.getValue() instanceof String s ? s : Json.write(e.getValue())))
                .toList();
    }

    // --- Markdown

    /** The same as a file to keep. @param zone in whose time it is told */
    static String markdown(Summary s, ZoneId zone) {
        StringBuilder out = new StringBuilder("# ")
                .append(plain(s.workflow()))
                .append(" on ")
                .append(s.ticket())
                .append("\n\n")
                .append(plain(s.title()))
                .append("\n\n| | |\n|---|---|\n");
        row(out, "Run", s.run() + ", version " + s.version());
        row(out, "Started", time(s.startedAt(), zone));
        row(out, "Ended", s.endedAt() == null ? "still under way" : time(s.endedAt(), zone));
        row(out, "Result", s.result() == null ? "" : s.result());
        s.inputs().forEach(l -> row(out, l.label(), l.value()));
        out.append("\n## Steps\n\n| step | from | to | planned until | by | left by |\n|---|---|---|---|---|---|\n");
        s.steps().forEach(p -> out.append("| ")
                .append(cell(p.name()))
                .append(" | ")
                .append(time(p.openedAt(), zone))
                .append(" | ")
                .append(p.endedAt() == null ? "" : time(p.endedAt(), zone))
                .append(" | ")
                .append(p.due() == null ? "" : time(p.due(), zone) + (p.overrunSeconds() > 0 ? ", late" : ""))
                .append(" | ")
                .append(cell(p.by() == null ? "" : p.by()))
                .append(" | ")
                .append(cell(p.exit() == null ? "" : p.exit()))
                .append(" |\n"));
        s.steps().stream().filter(p -> !p.lines().isEmpty()).forEach(p -> {
            out.append("\n### ").append(plain(p.name())).append("\n\n| | |\n|---|---|\n");
            p.lines().forEach(l -> row(out, l.label(), l.value()));
        });
        if (!s.results().isEmpty()) {
            out.append("\n## Results\n\n| | |\n|---|---|\n");
            s.results().forEach(l -> row(out, l.label(), l.value()));
        }
        return out.toString();
    }

    private static void row(StringBuilder out, String label, String value) {
        out.append("| ").append(cell(label)).append(" | ").append(cell(value)).append(" |\n");
    }

    private static String time(Instant at, ZoneId zone) {
        return TIME.format(at.atZone(zone));
    }

    private static String plain(String text) {
        return text.replaceAll("[\\r\\n]+", " ").replaceAll("([\\\\`*_\\[\\]<>#])", "\\\\$1");
    }

    private static String cell(String text) {
        return plain(text).replace("|", "\\|");
    }
}
