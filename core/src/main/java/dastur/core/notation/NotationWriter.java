package dastur.core.notation;

import dastur.core.people.Party;
import dastur.core.ticket.Field;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Check;
import dastur.core.workflow.DecisionTable;
import dastur.core.workflow.Known;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Writes a workflow as text. */
final class NotationWriter {
    private final WorkflowVersion version;
    private final StringBuilder out = new StringBuilder();

    NotationWriter(WorkflowVersion version) {
        this.version = version;
    }

    String write() {
        comment("", version.notes().get(""));
        line(
                "",
                "workflow " + version.key() + " " + quoted(version.name())
                        + (version.kind() == null
                                ? ""
                                : " for " + version.kind().word()));
        line("  ", "owner " + version.owner());
        text("  ", "purpose", version.purpose());
        version.startForm().forEach(f -> line("  ", "asks " + field(f)));
        version.vars().forEach(f -> line("  ", "keeps " + field(f)));
        version.results().forEach(r -> line("  ", "gives " + field(r.field()) + " = " + r.value()));
        version.conditions().forEach((name, text) -> line("  ", "condition " + name + " = " + text));
        if (version.mostVisits() != null) {
            line("  ", "at most " + version.mostVisits() + " steps in a run");
        }
        steps("", version.body());
        WorkflowVersion.Note tail = version.notes().get(Notation.TAIL);
        if (tail != null) {
            out.append('\n');
            comment("", tail);
        }
        return out.toString();
    }

    private void steps(String indent, Level level) {
        List<Step> steps = level.steps();
        for (int i = 0; i < steps.size(); i++) {
            if (indent.isEmpty()) {
                out.append('\n');
            }
            step(indent, steps.get(i), i + 1 < steps.size() ? steps.get(i + 1).id() : null);
        }
    }

    private void step(String indent, Step step, @Nullable StepId next) {
        WorkflowVersion.Note note = version.notes().get(step.id().value());
        comment(indent, note);
        line(indent, step.id() + ": " + sentence(step));
        String in = indent + "  ";
        if (note != null) {
            text(in, "from the document", note.wording());
        }
        settings(in, step);
        if (step.expected() != null) {
            line(in, "expects " + exit(step.expected()));
        }
        ways(in, step, next);
        switch (step) {
            case Bracket.Fork fork ->
                fork.lanes().forEach(lane -> {
                    line(in, "lane " + quoted(lane.name()) + (lane.when() == null ? "" : " if " + lane.when()));
                    steps(in + "  ", lane.body());
                });
            case Bracket bracket -> bracket.levels().forEach(level -> steps(in, level));
            default -> {}
        }
    }

    /** Ways in the order of the exits; the expected one is left out where it leads to the next step. */
    private void ways(String indent, Step step, @Nullable StepId next) {
        List<String> exits = step.exits(Known.NOTHING);
        String expected = step.expected() != null
                ? step.expected()
                : exits.stream().findFirst().orElse(null);
        if (expected != null && next != null && !step.ways().containsKey(expected)) {
            line(indent, exit(expected) + " -> ?");
        }
        Set<String> order = new LinkedHashSet<>(exits);
        order.addAll(new TreeMap<>(step.ways()).keySet());
        for (String exit : order) {
            StepId to = step.ways().get(exit);
            if (to != null && !(exit.equals(expected) && to.equals(next))) {
                line(indent, exit(exit) + " -> " + to);
            }
        }
    }

    // --- the sentence

    static String sentence(Step step) {
        return switch (step) {
            case Step.HumanTask s ->
                "ask " + party(s.assignee()) + " " + quoted(s.name()) + within(s.due())
                        + (s.outcomes().isEmpty() ? "" : ": ")
                        + s.outcomes().stream().map(NotationWriter::quoted).collect(Collectors.joining(", "));
            case Step.Approval s ->
                "approve " + quoted(s.name()) + " by " + rule(s.rule()) + " " + parties(s.asked()) + within(s.within());
            case Step.Branch s -> "decide " + quoted(s.name());
            case Step.Automation s -> "run " + acting(s);
            case Step.Capture s -> "measure " + acting(s);
            case Check s ->
                "check " + quoted(s.name()) + (s.settle() == null ? "" : " settling within " + s.settle())
                        + (s.every() == null ? "" : " every " + s.every())
                        + (s.review() == null ? "" : " reviewed by " + party(s.review()));
            case Step.Notify s -> "tell " + parties(s.to()) + " " + quoted(s.subject()) + " as " + quoted(s.name());
            case Step.Update s -> "update " + quoted(s.name());
            case Step.Wait s -> waiting(s) + within(s.within()) + " as " + quoted(s.name());
            case Step.Call s -> "call " + s.workflow() + elsewhere(s.on()) + " " + quoted(s.name());
            case Step.Escalate s ->
                "call in by " + s.ladder() + (s.as() == null ? "" : " as " + quoted(s.as())) + " " + quoted(s.name())
                        + within(s.within());
            case Bracket.Stage s -> "stage " + quoted(s.name());
            case Bracket.Fork s ->
                "side by side " + quoted(s.name())
                        + (s.first() == null ? "" : " until the first " + s.first() + " are done");
            case Bracket.ForEach s ->
                "for each " + s.item() + " in " + s.list()
                        + (s.atOnce() == 1 ? ", in order" : ", " + s.atOnce() + " at a time")
                        + (s.stopAtFirst() ? ", stop at the first failure" : "") + " as " + quoted(s.name());
            case Bracket.Repeat s ->
                "repeat until " + s.until() + (s.pause() == null ? "" : ", every " + s.pause()) + ", at most "
                        + s.rounds() + " rounds" + (s.within() == null ? "" : ", within " + s.within()) + " as "
                        + quoted(s.name());
            case Step.End s ->
                ending(s.ending()) + " " + quoted(s.result())
                        + (s.name().equals(s.result()) ? "" : " as " + quoted(s.name()));
        };
    }

    private static String acting(Step.Acting s) {
        return s.action() + " " + quoted(s.name()) + within(s.timeLimit())
                + (s.tries() == null ? "" : " at most " + s.tries() + " tries");
    }

    private static String elsewhere(Step.@Nullable Elsewhere on) {
        return switch (on) {
            case Step.NewTicket n -> " on a new " + n.raises().word();
            case Step.KnownTicket k -> " on ticket " + k.number() + " as";
            case null -> "";
        };
    }

    private static String waiting(Step.Wait s) {
        if (s.replyOf() != null) {
            return "wait for a reply of " + party(s.replyOf());
        }
        if (s.condition() != null) {
            return "wait for " + s.condition();
        }
        if (s.signal() != null) {
            return "wait for signal " + quoted(s.signal()) + (s.key() == null ? "" : " with key " + s.key());
        }
        return s.until() != null ? "wait until " + s.until() : "wait " + (s.span() == null ? "0 s" : s.span());
    }

    private static String ending(Step.Ending ending) {
        return switch (ending) {
            case LINE -> "done";
            case FAILED -> "fail";
            case LEAVE -> "leave by";
            case PUT_BACK -> "put back";
            case RUN -> "stop";
        };
    }

    private static String rule(ApprovalRule rule) {
        return switch (rule) {
            case ApprovalRule.AnyOne r -> "any one of";
            case ApprovalRule.Everyone r -> "everyone of";
            case ApprovalRule.AtLeast r -> "at least " + r.count() + " of";
            case ApprovalRule.Majority r -> "a majority of";
            case ApprovalRule.Share r -> "at least " + r.percent() + " percent of";
            case ApprovalRule.OneFromEach r -> "one from each of";
            case ApprovalRule.InSequence r -> "in sequence one from each of";
        };
    }

    private static String within(dastur.core.time.@Nullable Span span) {
        return span == null ? "" : " within " + span;
    }

    private static String parties(List<Party> parties) {
        return parties.stream().map(NotationWriter::party).collect(Collectors.joining(", "));
    }

    private static String party(Party party) {
        return switch (party) {
            case Party.OfGroup g -> "group " + g.group();
            case Party.OfPerson p -> "person " + p.person();
            case Party.Requester r -> "the requester";
            case Party.TicketGroup t -> "the ticket's group";
            case Party.CiOwner o -> "the CI's owner";
            case Party.OnCall o -> SentenceReader.LEVELS.get(o.level() - 1) + " " + o.rota();
            case Party.OfRole r -> "everybody who is " + r.role().word();
            case Party.TakesPart t -> "whoever is " + quoted(t.as());
            case Party.Manager m -> "the requester's manager";
            case Party.Computed c -> "whoever is (" + c.expression() + ")";
        };
    }

    // --- the lines below it

    private void settings(String in, Step step) {
        switch (step) {
            case Step.HumanTask s -> {
                text(in, "say", s.instructions());
                if (s.overseer() != null) {
                    line(in, "overseen by " + party(s.overseer()));
                }
                if (s.form() != null) {
                    s.form().forEach(f -> line(in, "form " + field(f)));
                }
                optional(in, "ladder ", s.ladder());
                optional(in, "left out if ", s.leftOutIf());
                flag(in, "may be left out", s.mayLeaveOut());
            }
            case Step.Approval s -> {
                text(in, "say", s.question());
                if (!s.shown().isEmpty()) {
                    line(in, "shows " + String.join(", ", s.shown()));
                }
                flag(in, "not the requester", s.notRequester());
                if (s.notDoersOf() != null) {
                    line(
                            in,
                            "not who did "
                                    + s.notDoersOf().stream().map(StepId::value).collect(Collectors.joining(", ")));
                }
                if (s.terms() != null && !s.terms().without().isEmpty()) {
                    line(in, "without " + parties(s.terms().without()));
                }
                flag(in, "asks why not", s.commentOnDecline());
                if (s.terms() != null) {
                    if (!s.terms().veto().isEmpty()) {
                        line(in, "veto of " + parties(s.terms().veto()));
                    }
                    flag(in, "asks why always", s.terms().commentAlways());
                    flag(in, "a yes may name conditions", s.terms().mayAddConditions());
                }
                if (s.setsOff() != null) {
                    line(in, "sets off " + quoted(s.setsOff()));
                }
                optional(in, "ladder ", s.ladder());
            }
            case Step.Branch s -> {
                s.cases().forEach(c -> line(in, "when " + quoted(c.name()) + " if " + c.when()));
                if (s.table() != null) {
                    table(in, s.table());
                }
            }
            case Step.Automation s -> {
                inputs(in, s.inputs());
                if (s.putBack() != null) {
                    line(
                            in,
                            "put back with " + s.putBack().action()
                                    + (s.putBack().always() ? " always" : "")
                                    + (s.putBack().repeatable() ? " even if unsure" : ""));
                    inputs(in + "  ", s.putBack().inputs());
                }
            }
            case Step.Capture s -> inputs(in, s.inputs());
            case Check s -> {
                optional(in, "measure ", s.measure());
                inputs(in, s.inputs());
                s.rules().forEach(r -> line(in, rule(r)));
            }
            case Step.Notify s -> {
                text(in, "say", s.text().isEmpty() ? null : s.text());
                if (s.room() != null) {
                    line(
                            in,
                            "in the room " + quoted(s.room().name())
                                    + (s.room().keepsAll() ? " keeping all that is said" : ""));
                }
            }
            case Step.Update s ->
                s.set()
                        .forEach(a -> line(
                                in,
                                "set " + a.target()
                                        + (a.text() != null ? " to " + quoted(a.text()) : " = " + a.value())));
            case Step.Call s -> {
                if (s.on() instanceof Step.NewTicket n) {
                    n.fields().forEach((name, expression) -> line(in, "set ticket." + name + " = " + expression));
                }
                inputs(in, s.inputs());
            }
            case Step.Escalate s -> text(in, "say", s.message().equals(s.name()) ? null : s.message());
            case Step.End s -> text(in, "say", s.message());
            case Step.Wait s -> {}
            case Bracket s -> {}
        }
    }

    private static String rule(Check.Rule r) {
        String compared =
                switch (r.compare()) {
                    case HOLDS -> " holds";
                    case WITHIN -> " within " + r.share() + " % of " + r.against();
                    default -> " " + r.compare().word() + " " + r.against();
                };
        return "rule " + quoted(r.name()) + (r.sense() == Check.Sense.STAY ? " stays" : "") + ": " + r.value()
                + compared
                + (r.capture() == null ? "" : ", measured by " + r.capture())
                + (r.maxAge() == null ? "" : ", at most " + r.maxAge() + " old")
                + (r.after() == null ? "" : ", after " + r.after());
    }

    private void table(String in, DecisionTable table) {
        line(in, "by table " + table.hit().word());
        table.inputs().forEach(i -> line(in + "  ", "column " + quoted(i.label()) + " = " + i.value()));
        table.rows()
                .forEach(r -> line(
                        in + "  ",
                        "row "
                                + r.cells().stream()
                                        .map(c -> c.isBlank() ? "-" : c)
                                        .collect(Collectors.joining(" | "))
                                + " -> " + quoted(r.result())));
    }

    private void inputs(String in, Map<String, String> inputs) {
        inputs.forEach((name, expression) -> line(in, "with " + name + " = " + expression));
    }

    private void optional(String in, String word, @Nullable Object value) {
        if (value != null) {
            line(in, word + value);
        }
    }

    private void flag(String in, String words, boolean set) {
        if (set) {
            line(in, words);
        }
    }

    private static String field(Field f) {
        List<String> parts = new ArrayList<>();
        parts.add(f.name() + ": " + f.type().word());
        parts.add(quoted(f.label()));
        if (f.choices() != null) {
            parts.add(
                    "one of " + f.choices().stream().map(NotationWriter::quoted).collect(Collectors.joining(", ")));
        }
        if (f.required()) {
            parts.add("required");
        }
        if (f.help() != null) {
            parts.add("help " + quoted(f.help()));
        }
        return String.join(" ", parts);
    }

    private void comment(String indent, WorkflowVersion.@Nullable Note note) {
        if (note != null && note.comment() != null) {
            note.comment().lines().forEach(l -> line(indent, l.isEmpty() ? "#" : "# " + l));
        }
    }

    /** A short text in quotes; a long one line by line behind bars. */
    private void text(String indent, String word, @Nullable String text) {
        if (text == null) {
            return;
        }
        boolean plain = text.lines().count() > 1
                && text.indexOf('\r') < 0
                && text.lines()
                        .allMatch(l -> l.equals(l.stripTrailing()) && l.chars().noneMatch(NotationWriter::tears))
                && !text.endsWith("\n");
        if (!plain) {
            line(indent, word + " " + quoted(text));
            return;
        }
        line(indent, word);
        text.lines().forEach(l -> line(indent + "  ", l.isEmpty() ? "|" : "| " + l));
    }

    private void line(String indent, String text) {
        out.append(indent).append(text).append('\n');
    }

    /** Plain small words stand as they are, other names of exits in quotes. */
    private static String exit(String exit) {
        return exit.matches("[a-z]+(?: [a-z]+)*") ? exit : quoted(exit);
    }

    static String quoted(String text) {
        StringBuilder quoted = new StringBuilder("\"");
        for (char c : text.toCharArray()) {
            switch (c) {
                case '\\' -> quoted.append("\\\\");
                case '"' -> quoted.append("\\\"");
                case '\n' -> quoted.append("\\n");
                case '\t' -> quoted.append("\\t");
                case '\r' -> quoted.append("\\r");
                default -> {
                    // Other characters that end a line would tear the text apart.
                    quoted.append(tears(c) ? String.format("\\u%04x", (int) c) : String.valueOf(c));
                }
            }
        }
        return quoted.append('"').toString();
    }

    private static boolean tears(int c) {
        return Character.isISOControl(c) || c == 0x2028 || c == 0x2029;
    }
}
