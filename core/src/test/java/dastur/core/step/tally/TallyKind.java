package dastur.core.step.tally;

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
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Assigned;
import dastur.core.run.CannotOpen;
import dastur.core.run.Here;
import dastur.core.run.Rings;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import java.util.List;
import java.util.Map;

/** All there is to tallies. */
public final class TallyKind implements Room<Tally>, Rings<Tally> {
    @Override
    public String word() {
        return "tally";
    }

    @Override
    public Class<Tally> model() {
        return Tally.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of(
                Brings.of(TallyEvents.TallyBegan.class),
                Brings.of(TallyEvents.Counted.class),
                Brings.of(TallyEvents.TallyFull.class),
                new Brings("counting", Counting.class));
    }

    @Override
    public Facts facts(Tally step) {
        return Facts.PLAIN;
    }

    @Override
    public void yields(Tally step, Vocabulary.Declared declared, Yield into) {
        into.value("total", "How many there are", FieldType.WHOLE);
    }

    @Override
    public void open(Tally step, VisitId visit, boolean guarded, Here here) {
        Assigned counters = here.assigned(List.of(step.counters()));
        if (here.active(counters).isEmpty()) {
            throw new CannotOpen("nobody", "Nobody can count '" + step.name() + "'.");
        }
        here.emit(
                Actor.SYSTEM,
                step.id(),
                visit,
                new TallyEvents.TallyBegan(step.name(), step.target(), counters, here.after(step.within())));
    }

    @Override
    public void rang(Tally step, Visit visit, Visit.Alarm alarm, Here here) {
        here.leaveOrStall(visit, "too few", "Too few were counted in time, and no way leads on from 'too few'.");
    }

    @Override
    public List<Answer> options(Tally step, Visit visit, Rehearsing in) {
        return List.of(Answer.does(step.id(), "full"));
    }

    @Override
    public Played give(Tally step, Visit visit, Answer answer, Rehearsing in) {
        Counting counting = (Counting) visit.waiting();
        Actor by = Actor.of(in.person(null, counting.counters()));
        return in.handle(by, new Count(visit.id(), counting.target() - counting.soFar(), "rehearsed"));
    }

    @Override
    public void inspect(Tally s, Inspection in) {
        in.somebody(s, "counters", s.counters());
        if (s.target() < 1) {
            in.blocks("nothing to count", s, "target", "'" + s.name() + "' counts to nothing.");
        }
    }

    @Override
    public void reads(Tally s, Reads into) {
        into.party(s.counters());
    }

    @Override
    public List<String> heads() {
        return List.of("tally");
    }

    @Override
    public Begun begin(String head, Scanner in) {
        int target = in.number("How many");
        String name = in.quoted("What is counted");
        in.expect("by");
        Party counters = Phrases.party(in);
        Span within = in.spanAfter("within").orElse(Span.parse("1 h"));
        return new Begun(name, (id, ways, expected) -> new Tally(id, name, target, counters, within, ways, expected));
    }

    @Override
    public String sentence(Tally s) {
        return "tally " + s.target() + " " + Phrases.quoted(s.name()) + " by " + Phrases.party(s.counters())
                + Phrases.within(s.within());
    }

    @Override
    public void settings(Tally s, Out out) {
        // All of it stands in the sentence.
    }

    @Override
    public Drawing drawing(Tally s) {
        return Drawing.of("userTask").by(List.of(s.counters())).within(s.within());
    }

    @Override
    public String usualExit() {
        return "full";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("timerEventDefinition", "too few");
    }
}
