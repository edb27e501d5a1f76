package dastur.core.step.bracket;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.json.Texts;
import dastur.core.notation.Begun;
import dastur.core.notation.HeadsLines;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Here;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Bracket.Fork;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Level;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** Lines that run side by side and meet again (N18, D9). */
public final class ForkKind implements Room<Fork>, HeadsLines<Fork> {
    @Override
    public String word() {
        return "fork";
    }

    @Override
    public Class<Fork> model() {
        return Fork.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of();
    }

    @Override
    public Facts facts(Fork step) {
        return Facts.PLAIN;
    }

    @Override
    public void yields(Fork step, Vocabulary.Declared declared, Yield into) {
        into.value("done", "Lanes done", FieldType.WHOLE).value("failed", "Lanes failed", FieldType.WHOLE);
    }

    // --- runs

    @Override
    public void open(Fork step, VisitId visit, boolean guarded, Here here) {
        here.open(visit, step);
    }

    @Override
    public List<Answer> options(Fork step, Visit visit, Rehearsing in) {
        return List.of();
    }

    @Override
    public Played give(Fork step, Visit visit, Answer answer, Rehearsing in) {
        return in.clockOnly(visit);
    }

    // --- findings

    @Override
    public void inspect(Fork fork, Inspection in) {
        Set<String> names = new HashSet<>();
        int hopeless = 0;
        for (Bracket.Lane lane : fork.lanes()) {
            if (!names.add(lane.name())) {
                in.blocks(
                        "same name twice",
                        fork,
                        "lanes",
                        "Two lanes of '" + fork.name() + "' are called '" + lane.name() + "'.");
            }
            if (!Texts.blank(lane.when())) {
                in.condition(fork, "lanes", "The condition of the lane '" + lane.name() + "'", lane.when());
            }
            hopeless += Brackets.canBeDone(lane.body()) ? 0 : 1;
        }
        int needed = fork.first() == null ? fork.lanes().size() : fork.first();
        if (fork.lanes().size() - hopeless < needed) {
            in.blocks(
                    "join waits for ever",
                    fork,
                    null,
                    "'" + fork.name() + "' waits for " + needed + " lanes, but " + hopeless
                            + " of them can never be done. Give each an end that is done.");
        } else if (fork.levels().stream().anyMatch(Brackets::canFail)
                && !fork.ways().containsKey("short")) {
            in.warns(
                    "short stalls",
                    fork,
                    null,
                    "When a lane of '" + fork.name() + "' fails, too few can be done and the run stalls. Lead 'short'"
                            + " somewhere if it should go on.");
        }
        fork.levels().forEach(level -> Brackets.writesOutside(fork, level, in));
    }

    @Override
    public void reads(Fork s, Reads into) {
        s.lanes().forEach(l -> into.expression(l.when()));
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("side by side");
    }

    @Override
    public Begun begin(String head, Scanner in) {
        String name = in.quotedIfThere().orElse("Side by side");
        Integer first = in.take("until the first") ? in.number("How many lanes") : null;
        boolean ignored = first != null && in.take("are done");
        List<Bracket.Lane> lanes = new ArrayList<>();
        return new Begun(name, (id, ways, expected) -> new Fork(id, name, lanes, first, ways, expected))
                .line("lane", line -> {
                    String of = line.in().quoted("The lane's name");
                    String when =
                            line.in().take("if") ? Phrases.condition(line.in().rest("A condition")) : null;
                    lanes.add(new Bracket.Lane(of, when, line.steps()));
                })
                .alone(end -> {
                    lanes.add(new Bracket.Lane("First", null, new Level(List.of(end.get()))));
                    lanes.add(new Bracket.Lane("Second", null, new Level(List.of(end.get()))));
                });
    }

    @Override
    public String sentence(Fork s) {
        return "side by side " + Phrases.quoted(s.name())
                + (s.first() == null ? "" : " until the first " + s.first() + " are done");
    }

    @Override
    public void settings(Fork s, Out out) {
        // Its lanes stand below it.
    }

    @Override
    public String headOf(Fork s, Level level) {
        Bracket.Lane lane =
                s.lanes().stream().filter(l -> l.body() == level).findFirst().orElseThrow();
        return "lane " + Phrases.quoted(lane.name()) + (lane.when() == null ? "" : " if " + lane.when());
    }

    // --- diagram

    @Override
    public Drawing drawing(Fork s) {
        return Drawing.of("subProcess").with(pen -> pen.sideBySide(s));
    }

    @Override
    public String usualExit() {
        return "joined";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("errorEventDefinition", "short");
    }
}
