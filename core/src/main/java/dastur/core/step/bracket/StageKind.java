package dastur.core.step.bracket;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
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
import dastur.core.workflow.Bracket.Stage;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/** A named part with one line; what its steps changed can be put back together (N21). */
public final class StageKind implements Room<Stage> {
    @Override
    public String word() {
        return "stage";
    }

    @Override
    public Class<Stage> model() {
        return Stage.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of();
    }

    @Override
    public Facts facts(Stage step) {
        return Facts.PLAIN;
    }

    @Override
    public void yields(Stage step, Vocabulary.Declared declared, Yield into) {
        // How it ended is all there is.
    }

    // --- runs

    @Override
    public void open(Stage step, VisitId visit, boolean guarded, Here here) {
        here.open(visit, step);
    }

    @Override
    public List<Answer> options(Stage step, Visit visit, Rehearsing in) {
        return List.of();
    }

    @Override
    public Played give(Stage step, Visit visit, Answer answer, Rehearsing in) {
        return in.clockOnly(visit);
    }

    // --- findings

    @Override
    public void inspect(Stage stage, Inspection in) {
        boolean asks = stage.exits(in.around().known()).contains("put back");
        boolean any = stage.body().all().anyMatch(s -> Facts.of(s).putsBack() != null);
        if (asks && !any) {
            in.warns(
                    "nothing to put back",
                    stage,
                    null,
                    "'" + stage.name() + "' can be put back, but no step in it says what undoes it.");
        }
        if (Brackets.canFail(stage.body()) && !stage.ways().containsKey("failed")) {
            in.warns(
                    "failure stalls",
                    stage,
                    null,
                    "When '" + stage.name() + "' fails, the run stalls. Lead 'failed' somewhere if it should go on.");
        }
    }

    @Override
    public void reads(Stage s, Reads into) {
        // It reads nothing itself.
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("stage");
    }

    @Override
    public Begun begin(String head, Scanner in) {
        String name = in.quotedIfThere().orElse("Stage");
        List<Step> body = new ArrayList<>();
        return new Begun(name, (id, ways, expected) -> new Stage(id, name, new Level(body), ways, expected))
                .holding(body::addAll)
                .alone(end -> body.add(end.get()));
    }

    @Override
    public String sentence(Stage s) {
        return "stage " + Phrases.quoted(s.name());
    }

    @Override
    public void settings(Stage s, Out out) {
        // Its steps stand below it.
    }

    // --- diagram

    @Override
    public Drawing drawing(Stage s) {
        return Drawing.of("subProcess").with(pen -> pen.inside(s.body()));
    }

    @Override
    public String usualExit() {
        return "done";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("errorEventDefinition", "failed");
    }
}
