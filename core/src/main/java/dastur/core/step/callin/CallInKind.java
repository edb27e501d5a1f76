package dastur.core.step.callin;

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
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Climbs;
import dastur.core.run.Climbs.Fired;
import dastur.core.run.Here;
import dastur.core.run.Rings;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Calls people in, up a ladder, until somebody accepts (N20, N61). */
public final class CallInKind implements Room<Escalate>, Rings<Escalate>, Climbs<Escalate> {
    private static final Span USUAL = Span.parse("30 min");

    @Override
    public String word() {
        return "escalate";
    }

    @Override
    public Class<Escalate> model() {
        return Escalate.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of(
                Brings.of(CallInEvents.CallInBegan.class),
                Brings.of(CallInEvents.CallInAnswered.class),
                new Brings("call-in", OpenCallIn.class));
    }

    @Override
    public Facts facts(Escalate step) {
        return Facts.PLAIN;
    }

    @Override
    public void yields(Escalate step, Vocabulary.Declared declared, Yield into) {
        into.value("by", "Who accepted", FieldType.PERSON);
    }

    // --- runs

    @Override
    public void open(Escalate step, VisitId visit, boolean guarded, Here here) {
        new CallInRules(here).begin(visit, step);
    }

    @Override
    public void rang(Escalate step, Visit visit, Visit.Alarm alarm, Here here) {
        here.leaveOrStall(visit, "exhausted", "Nobody accepted in time, and no way leads on from 'exhausted'.");
    }

    @Override
    public boolean climbs(Escalate step, Visit visit, Rung.Deed deed, Here here, Fired fired) {
        return new CallInRules(here).rung(visit, deed, fired);
    }

    @Override
    public List<Answer> options(Escalate step, Visit visit, Rehearsing in) {
        return List.of(Answer.of(step.id(), Answer.Says.ACCEPTS), Answer.of(step.id(), Answer.Says.CANNOT));
    }

    @Override
    public Played give(Escalate step, Visit visit, Answer answer, Rehearsing in) {
        boolean accepts = answer.says() == Answer.Says.ACCEPTS;
        OpenCallIn open = (OpenCallIn) visit.waiting();
        return open.asked().stream()
                .filter(p -> !open.cannot().contains(p))
                .findFirst()
                .map(p -> in.handle(Actor.of(p), new AnswerCallIn(visit.id(), accepts)))
                .orElseGet(() -> in.untilSomethingHappens(visit));
    }

    // --- findings

    @Override
    public void inspect(Escalate s, Inspection in) {
        in.text(s, "message", s.message());
        in.ladder(s, s.ladder(), s.within(), true);
        Optional<Ladder> ladder = in.around().ladders().apply(s.ladder());
        if (ladder.isPresent() && ladder.get().rungs().stream().noneMatch(r -> CallInRules.asks(r.deed()))) {
            in.blocks("nobody", s, "ladder", "The ladder of '" + s.name() + "' asks nobody to come.");
        }
    }

    @Override
    public void reads(Escalate s, Reads into) {
        into.text(s.message());
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("call in");
    }

    /** What is read of it. */
    private static final class Read {
        private @Nullable String message;
    }

    @Override
    public Begun begin(String head, Scanner in) {
        Read read = new Read();
        in.expect("by");
        LadderKey ladder = Phrases.ladder(in);
        String as = in.take("as") ? in.quoted("What whoever comes takes part as") : null;
        String name = in.quoted("Why people are called in");
        Span within = in.spanAfter("within").orElse(USUAL);
        return new Begun(
                        name,
                        (id, ways, expected) -> new Escalate(
                                id,
                                name,
                                ladder,
                                as,
                                read.message == null ? name : read.message,
                                within,
                                ways,
                                expected))
                .line("say", line -> read.message = line.text());
    }

    @Override
    public String sentence(Escalate s) {
        return "call in by " + s.ladder() + (s.as() == null ? "" : " as " + Phrases.quoted(s.as())) + " "
                + Phrases.quoted(s.name()) + Phrases.within(s.within());
    }

    @Override
    public void settings(Escalate s, Out out) {
        out.text("say", s.message().equals(s.name()) ? null : s.message());
    }

    // --- diagram

    @Override
    public Drawing drawing(Escalate s) {
        return Drawing.of("userTask").saying(s.message()).within(s.within());
    }

    @Override
    public String usualExit() {
        return "accepted";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of();
    }
}
