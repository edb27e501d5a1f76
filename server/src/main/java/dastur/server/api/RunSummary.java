package dastur.server.api;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.RuleSeen;
import dastur.core.run.RunId;
import dastur.core.step.approval.ApprovalEvents.AnsweredBack;
import dastur.core.step.approval.ApprovalEvents.ApprovalAsked;
import dastur.core.step.approval.ApprovalEvents.ApprovalVoided;
import dastur.core.step.approval.ApprovalEvents.AskedBack;
import dastur.core.step.approval.ApprovalEvents.VoteCast;
import dastur.core.step.call.CallEvents.CalledEnded;
import dastur.core.step.call.CallEvents.SentRunBegan;
import dastur.core.step.callin.CallInEvents.CallInBegan;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.calling.CallingEvents.CallFailed;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.step.check.CheckEvents.CheckJudged;
import dastur.core.step.check.CheckEvents.Checked;
import dastur.core.step.check.CheckEvents.ReviewAsked;
import dastur.core.step.check.CheckEvents.Reviewed;
import dastur.core.step.task.HumanTask;
import dastur.core.step.task.TaskEvents.TaskDone;
import dastur.core.step.task.TaskEvents.TaskLeftOut;
import dastur.core.step.task.TaskEvents.TaskOffered;
import dastur.core.step.waiting.WaitEvents.ReplyCame;
import dastur.core.step.waiting.WaitEvents.WaitBegan;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * A run from beginning to end in one document (N50, N53, N55): what went in, each step with planned and actual times, who
 * did it, its outcome, values and checks, and what came out. Made from the record alone.
 */
final class RunSummary {
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss", Locale.ROOT);

    /**
     * A label with what stands beside it.
     *
     * @param data the value itself where it is more than a text, such as a number, a time or a table
     */
    record Line(String label, String value, @Nullable Object data) {
        Line(String label, String value) {
            this(label, value, null);
        }
    }

    /**
     * A passage through a step.
     *
     * @param due until when it was to be done; null where nothing was planned
     * @param overrunSeconds by how much it was late; 0 when it was in time or nothing was planned
     * @param putsBack whether it undid what an earlier one had done
     * @param by who did it, everybody who voted; null for the workflow itself
     */
    record StepLine(
            String visit,
            String step,
            String name,
            Instant openedAt,
            @Nullable Instant endedAt,
            @Nullable Instant due,
            long overrunSeconds,
            boolean putsBack,
            @Nullable String by,
            @Nullable String exit,
            List<Line> lines) {}

    /**
     * @param interventions what people did to the run as a whole, and why
     * @param files what was attached to the ticket while it ran
     */
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
            List<Line> interventions,
            List<Line> files,
            List<Line> results) {}

    private static final class Passage {
        final String step;
        final Instant openedAt;
        final List<Line> lines = new ArrayList<>();

        @Nullable Instant endedAt;

        @Nullable Instant due;

        @Nullable String by;

        @Nullable String exit;

        boolean putsBack;
        final List<String> voters = new ArrayList<>();

        Passage(String step, Instant openedAt) {
            this.step = step;
            this.openedAt = openedAt;
        }
    }

    private final Function<PersonId, String> names;
    private final Map<String, Passage> passages = new LinkedHashMap<>();
    private List<Line> inputs = List.of();
    private List<Line> results = List.of();
    private final List<Line> interventions = new ArrayList<>();
    private final List<Line> files = new ArrayList<>();
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
            Function<Integer, WorkflowVersion> versions,
            ValueLabels labels) {
        RunSummary s = new RunSummary(names);
        record.stream().filter(r -> run.equals(r.run())).forEach(s::take);
        record.stream().filter(s::isMeanwhile).forEach(s::attached);
        WorkflowVersion version = versions.apply(s.version);
        Map<String, String> ofRun = ValueLabels.ofRun(version);
        Map<String, String> ofEnds = ValueLabels.ofEnds(version);
        List<StepLine> steps = new ArrayList<>();
        s.passages.forEach((visit, p) -> steps.add(new StepLine(
                visit,
                p.step,
                step(version, p).map(Step::name).orElse(p.step),
                p.openedAt,
                p.endedAt,
                p.due,
                late(p),
                p.putsBack,
                p.by,
                p.exit,
                called(
                        called(s.named(p.lines, asked(version, p)), ofRun),
                        step(version, p).map(labels::of).orElse(Map.of())))));
        return new Summary(
                ticket,
                title,
                run.value(),
                s.name,
                s.version,
                s.startedAt == null ? Instant.EPOCH : s.startedAt,
                s.endedAt,
                s.result,
                called(s.named(s.inputs, version.startForm()), ofEnds),
                steps,
                s.interventions,
                s.files,
                called(s.results, ofEnds));
    }

    private static Optional<Step> step(WorkflowVersion version, Passage p) {
        return version.find(new StepId(p.step));
    }

    private static List<Field> asked(WorkflowVersion version, Passage p) {
        return step(version, p)
                .filter(HumanTask.class::isInstance)
                .map(s -> ((HumanTask) s).form())
                .orElse(List.of());
    }

    /** People by their names, where a form asked for a person. */
    private List<Line> named(List<Line> lines, List<Field> form) {
        Set<String> people = form.stream()
                .filter(f -> f.type() == FieldType.PERSON)
                .map(Field::name)
                .collect(Collectors.toSet());
        return lines.stream()
                .map(l -> people.contains(l.label())
                                && l.data() == null
                                && !l.value().isBlank()
                        ? new Line(l.label(), names.apply(new PersonId(l.value())))
                        : l)
                .toList();
    }

    /** Under the names by which people know what has a short one in the record. */
    private static List<Line> called(List<Line> lines, Map<String, String> labels) {
        return lines.stream()
                .map(l -> new Line(labels.getOrDefault(l.label(), l.label()), l.value(), l.data()))
                .toList();
    }

    private boolean isMeanwhile(Recorded r) {
        return startedAt != null && !r.at().isBefore(startedAt) && (endedAt == null || !r.at().isAfter(endedAt));
    }

    private void attached(Recorded r) {
        if (r.event() instanceof Event.FileAttached e) {
            files.add(new Line(
                    e.name() == null ? "(redacted)" : e.name(),
                    (e.by() == null ? "" : "by " + names.apply(e.by()) + ", ") + "SHA-256 " + e.hash()));
        }
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
            case Event.Intervened e
            when r.visit() == null ->
                interventions.add(new Line(
                        e.kind().word() + (r.actor() instanceof Actor.OfPerson a ? ", " + names.apply(a.person()) : ""),
                        e.reason() == null ? "(redacted)" : e.reason()));
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
            case TaskOffered e -> p.due = e.due();
            case TaskDone e -> {
                p.lines.addAll(lines(e.form()));
                note(p, "Note", e.note());
            }
            case TaskLeftOut e -> note(p, "Left out", e.reason());
            case ApprovalAsked e -> {
                p.due = e.due();
                p.lines.addAll(lines(e.values()));
            }
            case VoteCast e -> {
                String said = (e.yes() ? "yes" : "no")
                        + (e.condition() == null ? "" : ", on the condition: " + e.condition())
                        + (e.comment() == null ? "" : ": " + e.comment());
                p.lines.add(new Line(names.apply(e.by()), said));
                p.voters.add(names.apply(e.by()));
            }
            case AskedBack e -> note(p, names.apply(e.by()) + " asked", e.text());
            case AnsweredBack e -> note(p, names.apply(e.by()) + " answered", e.text());
            case ApprovalVoided e -> {
                note(p, "No longer counted", p.voters.isEmpty() ? null : String.join(", ", p.voters));
                p.voters.clear();
            }
            case CallRequested e -> {
                p.putsBack = e.putsBack() != null;
                p.lines.addAll(lines(e.inputs()));
            }
            case CallDone e -> {
                p.lines.addAll(lines(e.outputs()));
                note(p, "Reference", e.reference());
                note(p, "Link", e.link());
            }
            case CallFailed e -> note(p, "Failed", e.error());
            case CheckJudged e -> {
                note(p, "Judged the " + e.tries() + ". time", e.held() + " of " + e.rules() + " rules held");
                rules(p, e.seen());
            }
            case ReviewAsked e -> {
                note(p, "Judged", e.held() + " of " + e.rules() + " rules held; somebody was asked to look");
                rules(p, e.last());
            }
            case Checked e -> rules(p, e.last());
            case Reviewed e -> note(p, names.apply(e.by()) + " said " + e.verdict(), e.reason());
            case CallInBegan e -> p.due = e.until();
            case WaitBegan e -> p.due = e.until();
            case SentRunBegan e -> note(p, "Runs on", e.run().ticket().value());
            case ReplyCame e -> note(p, names.apply(e.by()) + " replied", e.text());
            case CalledEnded e -> p.lines.addAll(lines(e.results()));
            case Event.Stalled e -> note(p, "Stalled", e.why());
            case Event.Intervened e -> note(p, "Helped: " + e.kind().word(), e.reason());
            default -> {}
        }
        boolean ends = r.event() instanceof Event.Leaving l && l.exit() != null
                || r.event() instanceof Event.Ended
                || r.event() instanceof Event.Withdrawn;
        if (ends) {
            p.endedAt = r.at();
            p.exit = r.event() instanceof TaskLeftOut
                    ? "left out"
                    : r.event() instanceof Event.Leaving l
                            ? l.exit()
                            : r.event() instanceof Event.Ended e ? e.result() : "withdrawn";
            String one = r.actor() instanceof Actor.OfPerson a ? names.apply(a.person()) : null;
            p.by = p.voters.isEmpty() ? one : String.join(", ", new LinkedHashSet<>(p.voters));
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
                .map(e -> e.getValue() instanceof String s
                        ? new Line(e.getKey(), s)
                        : new Line(e.getKey(), words(e.getValue()), e.getValue()))
                .toList();
    }

    private static String words(Object value) {
        return value instanceof Boolean yes ? yes ? "yes" : "no" : Json.write(value);
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
                .append(cell(p.putsBack() ? "put back: " + p.name() : p.name()))
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
        section(out, "Interventions", s.interventions());
        section(out, "Files attached meanwhile", s.files());
        section(out, "Results", s.results());
        return out.toString();
    }

    private static void section(StringBuilder out, String title, List<Line> lines) {
        if (!lines.isEmpty()) {
            out.append("\n## ").append(title).append("\n\n| | |\n|---|---|\n");
            lines.forEach(l -> row(out, l.label(), l.value()));
        }
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
