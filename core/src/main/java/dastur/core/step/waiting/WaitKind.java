package dastur.core.step.waiting;

import dastur.core.bpmn.Drawing;
import dastur.core.bpmn.Pen;
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
import dastur.core.people.PersonId;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.run.Hears;
import dastur.core.run.Here;
import dastur.core.run.Rechecks;
import dastur.core.run.Rings;
import dastur.core.run.Settles;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.step.Room;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Waits for a length of time, a moment, a condition on the ticket, a signal or a reply. */
public final class WaitKind implements Room<Wait>, Rings<Wait>, Rechecks<Wait>, Settles, Hears {
    @Override
    public String word() {
        return "wait";
    }

    @Override
    public Class<Wait> model() {
        return Wait.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of(
                Brings.of(WaitEvents.WaitBegan.class),
                Brings.of(WaitEvents.ReplyCame.class),
                Brings.of(WaitEvents.ConditionMet.class),
                Brings.of(WaitEvents.SignalCame.class),
                new Brings("condition", ForCondition.class),
                new Brings("signal", ForSignal.class),
                new Brings("reply", ForReply.class),
                new Brings("moment", Moment.class));
    }

    @Override
    public Facts facts(Wait step) {
        return Facts.PLAIN;
    }

    @Override
    public void yields(Wait step, Vocabulary.Declared declared, Yield into) {
        if (step.signal() != null) {
            into.value("signal", "What the signal carried", FieldType.ANY);
        }
        if (step.replyOf() != null) {
            into.value("by", "Who replied", FieldType.PERSON).value("text", "What was replied", FieldType.LONG_TEXT);
        }
    }

    // --- runs

    @Override
    public void open(Wait step, VisitId visit, boolean guarded, Here here) {
        new WaitRules(here).begin(visit, step);
    }

    @Override
    public void rang(Wait step, Visit visit, Visit.Alarm alarm, Here here) {
        if (alarm.kind() == Visit.AlarmKind.WAIT) {
            here.leave(Actor.CLOCK, visit, "done", "the wait was over");
        } else {
            here.leaveOrStall(
                    visit,
                    "timed out",
                    "What was waited for did not come in time, and no way leads on from 'timed out'.");
        }
    }

    @Override
    public int turn() {
        return 20;
    }

    @Override
    public void settle(Here here) {
        new WaitRules(here).settle();
    }

    @Override
    public void written(PersonId by, String text, Here here) {
        new WaitRules(here).written(by, text);
    }

    @Override
    public void recheck(Wait step, Visit visit, Here here) {
        new WaitRules(here).recheck(visit);
    }

    @Override
    public List<Answer> options(Wait step, Visit visit, Rehearsing in) {
        return switch (visit.waiting()) {
            case ForSignal s -> List.of(Answer.of(step.id(), Answer.Says.SIGNALS));
            case ForReply r -> List.of(Answer.of(step.id(), Answer.Says.REPLIES));
            case Waiting w -> List.of();
        };
    }

    @Override
    public Played give(Wait step, Visit visit, Answer answer, Rehearsing in) {
        return switch (visit.waiting()) {
            case ForSignal s ->
                in.handle(
                        new Actor.Outside("rehearsal"),
                        new WaitCommands.SignalCame(visit.id(), "rehearsal", answer.given()));
            case ForReply r -> {
                String said = answer.given().get("text") instanceof String text ? text : "As rehearsed.";
                yield in.handle(Actor.of(in.person(null, r.from())), new Command.AddNote(said, true));
            }
            case Waiting w -> in.clockOnly(visit);
        };
    }

    @Override
    public Optional<Answer> answered(StepId step, Event event, Span took) {
        return switch (event) {
            case WaitEvents.ReplyCame e ->
                Optional.of(new Answer(
                        step, Answer.Says.REPLIES, null, e.text() == null ? null : Map.of("text", e.text()), took));
            case WaitEvents.SignalCame e -> Optional.of(new Answer(step, Answer.Says.SIGNALS, null, e.values(), took));
            case Event e -> Optional.empty();
        };
    }

    // --- findings

    @Override
    public void inspect(Wait s, Inspection in) {
        long given = Stream.of(s.span(), s.until(), s.condition(), s.signal(), s.replyOf())
                .filter(Objects::nonNull)
                .count();
        if (given != 1) {
            in.blocks(
                    "no time",
                    s,
                    "span",
                    "'" + s.name() + "' waits for exactly one thing: a length of time, a moment, a condition, a"
                            + " signal or a reply.");
            return;
        }
        if (s.until() != null) {
            in.typed(s, "until", "The moment of '" + s.name() + "'", s.until(), FieldType.TIME);
        }
        if (s.condition() != null) {
            in.condition(s, "condition", "The condition of '" + s.name() + "'", s.condition());
        }
        if (s.key() != null) {
            in.expression(s, "key", "The key of '" + s.name() + "'", s.key());
        }
        boolean endless = s.condition() != null || s.signal() != null || s.replyOf() != null;
        if (endless && s.within() == null) {
            in.warns(
                    "waits for ever",
                    s,
                    "within",
                    "'" + s.name() + "' may wait for ever. Say how long at most, and what then.");
        }
    }

    @Override
    public void reads(Wait s, Reads into) {
        into.expression(s.until());
        into.expression(s.condition());
        into.expression(s.key());
        if (s.replyOf() != null) {
            into.party(s.replyOf());
        }
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("wait");
    }

    /** What is waited for: one of these. */
    private record For(
            String name,
            @Nullable Span span,
            @Nullable String until,
            @Nullable String condition,
            @Nullable String signal,
            @Nullable String key,
            @Nullable Party replyOf) {}

    @Override
    public Begun begin(String head, Scanner in) {
        For what = what(in);
        Span within = in.spanAfter("within").orElse(null);
        String name = in.take("as") ? in.quoted("The step's name") : what.name();
        return new Begun(
                name,
                (id, ways, expected) -> new Wait(
                        id,
                        name,
                        what.span(),
                        what.until(),
                        what.condition(),
                        what.signal(),
                        what.key(),
                        what.replyOf(),
                        within,
                        ways,
                        expected));
    }

    private static For what(Scanner in) {
        if (in.take("until")) {
            String until = in.until("A moment", List.of(" as \""));
            return new For("Wait until " + until, null, until, null, null, null, null);
        }
        if (in.take("for a reply of") || in.take("for a reply from")) {
            return new For("Wait for a reply", null, null, null, null, null, Phrases.party(in));
        }
        if (in.take("for signal")) {
            String signal = in.atQuote() ? in.quoted("The signal's name") : in.key("The signal's name");
            String key = in.take("with key") ? in.until("A key", List.of(" within ", " as \"")) : null;
            return new For("Wait for " + signal, null, null, null, signal, key, null);
        }
        if (in.take("for")) {
            String condition = Phrases.condition(in.until("A condition", List.of(" within ", " as \"")));
            return new For("Wait for " + condition, null, null, condition, null, null, null);
        }
        Span span = in.span();
        return new For("Wait " + span, span, null, null, null, null, null);
    }

    @Override
    public String sentence(Wait s) {
        return what(s) + Phrases.within(s.within()) + " as " + Phrases.quoted(s.name());
    }

    private static String what(Wait s) {
        if (s.replyOf() != null) {
            return "wait for a reply of " + Phrases.party(s.replyOf());
        }
        if (s.condition() != null) {
            return "wait for " + s.condition();
        }
        if (s.signal() != null) {
            return "wait for signal " + Phrases.quoted(s.signal()) + (s.key() == null ? "" : " with key " + s.key());
        }
        return s.until() != null ? "wait until " + s.until() : "wait " + (s.span() == null ? "0 s" : s.span());
    }

    @Override
    public void settings(Wait s, Out out) {
        // All of it stands in the sentence.
    }

    // --- diagram

    @Override
    public Drawing drawing(Wait s) {
        return s.within() != null
                ? Drawing.of("receiveTask").within(s.within())
                : Drawing.of("intermediateCatchEvent").with(pen -> event(s, pen));
    }

    private static void event(Wait s, Pen pen) {
        if (s.span() != null) {
            pen.child("timerEventDefinition").child("timeDuration").expression(Pen.duration(s.span()));
        } else if (s.until() != null) {
            pen.child("timerEventDefinition").child("timeDate").expression(s.until());
        } else if (s.condition() != null) {
            pen.child("conditionalEventDefinition").child("condition").expression(s.condition());
        } else if (s.signal() != null) {
            pen.signal(s.signal());
        }
    }

    @Override
    public String usualExit() {
        return "done";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("timerEventDefinition", "timed out");
    }
}
