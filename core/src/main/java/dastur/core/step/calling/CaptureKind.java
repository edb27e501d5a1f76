package dastur.core.step.calling;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.run.Here;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** A measurement: an action whose outputs are kept under the step's id for checks and comparison (N22). */
public final class CaptureKind implements Room<Capture>, CallMachine<Capture> {
    @Override
    public String word() {
        return "capture";
    }

    @Override
    public Class<Capture> model() {
        return Capture.class;
    }

    @Override
    public List<Brings> brings() {
        return BROUGHT;
    }

    @Override
    public Facts facts(Capture step) {
        return Facts.PLAIN.acting(step.action(), false, null);
    }

    @Override
    public void yields(Capture step, Vocabulary.Declared declared, Yield into) {
        Actings.yields(step, declared, into);
    }

    // --- runs

    @Override
    public void open(Capture step, VisitId visit, boolean guarded, Here here) {
        new CallRules(here).request(visit, step, guarded);
    }

    @Override
    public void inspect(Capture s, Inspection in) {
        Actings.inspect(s, in);
    }

    @Override
    public void reads(Capture s, Reads into) {
        Actings.reads(s, into);
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("measure");
    }

    @Override
    public Begun begin(String head, Scanner in) {
        Actings.Read read = Actings.read(in);
        return new Begun(
                        read.name(),
                        (id, ways, expected) -> new Capture(
                                id,
                                read.name(),
                                read.action(),
                                read.inputs(),
                                read.timeLimit(),
                                read.tries(),
                                ways,
                                expected))
                .line("with", line -> Phrases.input(line.in(), read.inputs()));
    }

    @Override
    public String sentence(Capture s) {
        return Actings.sentence("measure", s);
    }

    @Override
    public void settings(Capture s, Out out) {
        out.inputs(s.inputs());
    }

    // --- diagram

    @Override
    public Drawing drawing(Capture s) {
        return Drawing.of("serviceTask");
    }

    @Override
    public String usualExit() {
        return "ok";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("errorEventDefinition", "failed");
    }

    @Override
    public Optional<String> takesNothingAnew(Capture step, Visit visit, Here here) {
        return new CallRules(here).takesNothingAnew(visit, step);
    }

    @Override
    public void retryAnew(Capture step, Visit visit, Here here) {
        new CallRules(here).requestAnew(visit, step);
    }
}
