package dastur.core.step.check;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.people.Actor;
import dastur.core.people.Party;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Fails;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.step.calling.CallMachine;
import dastur.core.step.calling.Measures;
import dastur.core.step.calling.NamedAction;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.StepId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Judges measurements and values by rules, each with its numbers (N22). */
public final class CheckKind implements Room<Check>, CallMachine<Check>, Measures<Check>, Fails<Check> {
    @Override
    public String word() {
        return "check";
    }

    @Override
    public Class<Check> model() {
        return Check.class;
    }

    @Override
    public List<Brings> brings() {
        return Stream.concat(
                        BROUGHT.stream(),
                        Stream.of(
                                Brings.of(CheckEvents.Measured.class),
                                Brings.of(CheckEvents.CheckJudged.class),
                                Brings.of(CheckEvents.Checked.class),
                                Brings.of(CheckEvents.ReviewAsked.class),
                                Brings.of(CheckEvents.Reviewed.class),
                                new Brings("review", Review.class),
                                new Brings("judging", Judging.class)))
                .toList();
    }

    @Override
    public Facts facts(Check step) {
        return Facts.PLAIN.acting(step.measure(), false, null);
    }

    @Override
    public void yields(Check step, Vocabulary.Declared declared, Yield into) {
        into.value("tries", "How often it was judged", FieldType.WHOLE)
                .value("held", "Rules that held", FieldType.WHOLE)
                .value("rules", "Rules", FieldType.WHOLE)
                .value("sideEffects", "Rules that turned bad", FieldType.LIST)
                .value("by", "Who reviewed it", FieldType.PERSON)
                .value("comment", "What the reviewer said", FieldType.LONG_TEXT);
        if (step.measure() != null) {
            declared.action(step.measure())
                    .ifPresent(a -> into.measured(
                            a.outputs().stream().map(Action.Output::field).toList()));
        }
    }

    // --- runs

    @Override
    public void open(Check step, VisitId visit, boolean guarded, Here here) {
        new CheckRules(here).begin(visit, step);
    }

    /** Its next judging has come due, or what it measures took too long. */
    @Override
    public void rang(Check step, Visit visit, Visit.Alarm alarm, Here here) {
        if (alarm.kind() == Visit.AlarmKind.JUDGE) {
            new CheckRules(here).begin(visit.id(), step);
        } else {
            CallMachine.super.rang(step, visit, alarm, here);
        }
    }

    @Override
    public void measured(Check step, Visit visit, Map<String, Object> outputs, @Nullable String trouble, Here here) {
        new CheckRules(here).measured(visit, step, outputs, trouble);
    }

    @Override
    public List<Answer> options(Check step, Visit visit, Rehearsing in) {
        return visit.waiting() instanceof Review review
                ? review.verdicts().stream()
                        .map(v -> new Answer(step.id(), Answer.Says.REVIEWS, v, null, null))
                        .toList()
                : CallMachine.super.options(step, visit, in);
    }

    @Override
    public Played give(Check step, Visit visit, Answer answer, Rehearsing in) {
        if (!(visit.waiting() instanceof Review review)) {
            return CallMachine.super.give(step, visit, held(step, answer), in);
        }
        return in.handle(
                Actor.of(in.person(null, review.to())),
                new CheckCommands.ReviewCheck(
                        visit.id(), CheckCommands.ReviewVerdict.of(answer.exit()), "as rehearsed"));
    }

    /** What is measured and not said is as the rules want it. */
    private static Answer held(Check step, Answer answer) {
        if (answer.says() != Answer.Says.DOES) {
            return answer;
        }
        Map<String, Object> measured = new TreeMap<>(Holding.of(step));
        measured.putAll(answer.given());
        return new Answer(answer.step(), answer.says(), answer.exit(), measured, answer.after());
    }

    @Override
    public Optional<Answer> answered(StepId step, Event event, Span took) {
        return switch (event) {
            case CheckEvents.Reviewed e -> Optional.of(new Answer(step, Answer.Says.REVIEWS, e.verdict(), null, took));
            case CheckEvents.Measured e -> Optional.of(new Answer(step, Answer.Says.DOES, "ok", e.outputs(), took));
            case Event e -> CallMachine.super.answered(step, event, took);
        };
    }

    @Override
    public Check neverHolding(Check step) {
        return step.neverHolding();
    }

    // --- findings

    @Override
    public void inspect(Check s, Inspection in) {
        if (s.rules().isEmpty()) {
            in.blocks("no rule", s, "rules", "'" + s.name() + "' judges nothing: it has no rule.");
        }
        if (s.review() != null) {
            in.somebody(s, "review", s.review());
        }
        if (s.measure() != null) {
            NamedAction.inspect(s, "measure", s.measure(), "for '" + s.name() + "'", in);
        }
        s.rules().forEach(r -> inspect(s, r, in));
    }

    private static void inspect(Check s, Check.Rule r, Inspection in) {
        String what = "The rule '" + r.name() + "' of '" + s.name() + "'";
        if (r.compare() == Check.Compare.HOLDS) {
            in.condition(s, "rules", what, r.value());
        } else {
            in.expression(s, "rules", what, r.value());
        }
        if (r.compare().needsAgainst()) {
            in.expression(s, "rules", what, r.against());
        }
        Stream.of(r.capture(), r.after())
                .filter(Objects::nonNull)
                .filter(id -> in.version().find(id).isEmpty())
                .forEach(id -> in.blocks(
                        "unknown step", s, "rules", what + " names the step '" + id + "', which does not exist."));
    }

    @Override
    public void reads(Check s, Reads into) {
        into.expressions(s.inputs().values());
        s.rules().forEach(r -> {
            into.expression(r.value());
            into.expression(r.against());
        });
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("check");
    }

    /** What is read of it. */
    private static final class Read {
        private @Nullable ActionKey measure;
        private final Map<String, String> inputs = new LinkedHashMap<>();
        private final List<Check.Rule> rules = new ArrayList<>();
    }

    @Override
    public Begun begin(String head, Scanner in) {
        Read read = new Read();
        String name = in.quotedIfThere().orElse("Check");
        Span settle = in.spanAfter("settling within").orElse(null);
        Span every = in.spanAfter("every").orElse(null);
        Party review = in.take("reviewed by") ? Phrases.party(in) : null;
        return new Begun(
                        name,
                        (id, ways, expected) -> new Check(
                                id, name, read.rules, read.measure, read.inputs, settle, every, review, ways, expected))
                .line("measure", line -> read.measure = Phrases.action(line.in()))
                .line("with", line -> Phrases.input(line.in(), read.inputs))
                .line("rule", line -> read.rules.add(RuleSentences.read(line.in())));
    }

    @Override
    public String sentence(Check s) {
        return "check " + Phrases.quoted(s.name()) + (s.settle() == null ? "" : " settling within " + s.settle())
                + (s.every() == null ? "" : " every " + s.every())
                + (s.review() == null ? "" : " reviewed by " + Phrases.party(s.review()));
    }

    @Override
    public void settings(Check s, Out out) {
        out.optional("measure", s.measure());
        out.inputs(s.inputs());
        s.rules().forEach(r -> out.line(RuleSentences.write(r)));
    }

    // --- diagram

    @Override
    public Drawing drawing(Check s) {
        return Drawing.of("businessRuleTask");
    }

    @Override
    public String usualExit() {
        return "pass";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of();
    }
}
