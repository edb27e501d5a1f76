package dastur.core.step.bracket;

import dastur.core.bpmn.Drawing;
import dastur.core.bpmn.Pen;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.finding.WayChecks;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Here;
import dastur.core.run.Rings;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Bracket.Repeat;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** A body again and again until a condition holds (N18). */
public final class RepeatKind implements Room<Repeat>, Rings<Repeat> {
    private static final int USUAL_ROUNDS = 100;

    @Override
    public String word() {
        return "repeat";
    }

    @Override
    public Class<Repeat> model() {
        return Repeat.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of();
    }

    @Override
    public Facts facts(Repeat step) {
        return Facts.PLAIN;
    }

    @Override
    public void yields(Repeat step, Vocabulary.Declared declared, Yield into) {
        into.value("rounds", "Rounds", FieldType.WHOLE);
    }

    // --- runs

    @Override
    public void open(Repeat step, VisitId visit, boolean guarded, Here here) {
        here.open(visit, step);
    }

    @Override
    public void rang(Repeat step, Visit visit, Visit.Alarm alarm, Here here) {
        here.rangBracket(visit, alarm);
    }

    @Override
    public List<Answer> options(Repeat step, Visit visit, Rehearsing in) {
        return List.of();
    }

    @Override
    public Played give(Repeat step, Visit visit, Answer answer, Rehearsing in) {
        return in.clockOnly(visit);
    }

    // --- findings

    @Override
    public void inspect(Repeat repeat, Inspection in) {
        in.condition(repeat, "until", "The condition of '" + repeat.name() + "'", repeat.until());
        boolean turnsAtOnce = repeat.pause() == null
                && repeat.body().steps().stream().allMatch(WayChecks::instant)
                && !repeat.body().steps().isEmpty();
        if (turnsAtOnce && !changesWhatItReads(repeat, in.expressions().reads(repeat.until()))) {
            in.blocks(
                    "busy repeat",
                    repeat,
                    "until",
                    "Nothing in '" + repeat.name()
                            + "' can change what its condition reads, and it does not pause. Give it a pause.");
        }
    }

    private static boolean changesWhatItReads(Repeat repeat, Set<String> reads) {
        return repeat.body()
                .all()
                .anyMatch(s -> reads.stream().anyMatch(r -> r.startsWith("steps." + s.id() + "."))
                        || Facts.of(s).sets().keySet().stream().anyMatch(reads::contains));
    }

    @Override
    public void reads(Repeat s, Reads into) {
        // Its condition is read after its body.
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("repeat");
    }

    @Override
    public Begun begin(String head, Scanner in) {
        in.expect("until");
        String until =
                Phrases.condition(in.until("A condition", List.of(", every ", ", at most ", ", within ", " as \"")));
        Span pause = in.spanAfter(", every").orElse(null);
        int rounds = USUAL_ROUNDS;
        if (in.take(", at most")) {
            rounds = in.number("How many rounds");
            boolean ignored = in.take("rounds") || in.take("round");
        }
        int most = rounds;
        Span within = in.spanAfter(", within").orElse(null);
        String name = in.take("as") ? in.quoted("The step's name") : "Until " + until;
        boolean ignored = in.take(":");
        List<Step> body = new ArrayList<>();
        return new Begun(
                        name,
                        (id, ways, expected) ->
                                new Repeat(id, name, until, pause, most, within, new Level(body), ways, expected))
                .holding(body::addAll)
                .alone(end -> body.add(end.get()));
    }

    @Override
    public String sentence(Repeat s) {
        return "repeat until " + s.until() + (s.pause() == null ? "" : ", every " + s.pause()) + ", at most "
                + s.rounds() + " rounds" + (s.within() == null ? "" : ", within " + s.within()) + " as "
                + Phrases.quoted(s.name());
    }

    @Override
    public void settings(Repeat s, Out out) {
        // Its steps stand below it.
    }

    // --- diagram

    @Override
    public Drawing drawing(Repeat s) {
        return Drawing.of("subProcess").with(pen -> {
            Pen loop = pen.child("standardLoopCharacteristics");
            loop.attribute("testBefore", "false");
            loop.attribute("loopMaximum", String.valueOf(s.rounds()));
            loop.child("loopCondition").expression("!(" + s.until() + ")");
            pen.inside(s.body());
        });
    }

    @Override
    public String usualExit() {
        return "done";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of();
    }
}
