package dastur.core.step.calling;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
import dastur.core.notation.Line;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.run.Here;
import dastur.core.run.Reaches;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** An action of the catalogue is carried out by a machine (N14). */
public final class AutomationKind implements Room<Automation>, CallMachine<Automation>, Reaches<Automation> {
    @Override
    public String word() {
        return "automation";
    }

    @Override
    public Class<Automation> model() {
        return Automation.class;
    }

    @Override
    public List<Brings> brings() {
        return BROUGHT;
    }

    @Override
    public Facts facts(Automation step) {
        return Facts.PLAIN.acting(
                step.action(),
                true,
                step.putBack() == null ? null : step.putBack().action());
    }

    @Override
    public void yields(Automation step, Vocabulary.Declared declared, Yield into) {
        Actings.yields(step, declared, into);
    }

    // --- runs

    @Override
    public void open(Automation step, VisitId visit, boolean guarded, Here here) {
        new CallRules(here).request(visit, step, guarded);
    }

    @Override
    public Optional<String> reaches(Automation step, Here here) {
        return new CallRules(here).changes(step);
    }

    @Override
    public void inspect(Automation s, Inspection in) {
        Actings.inspect(s, in);
    }

    @Override
    public void reads(Automation s, Reads into) {
        Actings.reads(s, into);
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("run");
    }

    /** What is read below it. */
    private static final class Below {
        private @Nullable PutBack putBack;
    }

    @Override
    public Begun begin(String head, Scanner in) {
        Actings.Read read = Actings.read(in);
        Below below = new Below();
        return new Begun(
                        read.name(),
                        (id, ways, expected) -> new Automation(
                                id,
                                read.name(),
                                read.action(),
                                read.inputs(),
                                read.timeLimit(),
                                read.tries(),
                                below.putBack,
                                ways,
                                expected))
                .line("with", line -> Phrases.input(line.in(), read.inputs()))
                .line("put back with", line -> below.putBack = putBack(line));
    }

    private static PutBack putBack(Line line) {
        ActionKey action = Phrases.action(line.in());
        boolean always = line.in().take("always");
        boolean repeatable = line.in().take("even if unsure");
        Map<String, String> inputs = new LinkedHashMap<>();
        line.each(one -> {
            one.expect("with");
            Phrases.input(one, inputs);
        });
        return new PutBack(action, inputs, always, repeatable);
    }

    @Override
    public String sentence(Automation s) {
        return Actings.sentence("run", s);
    }

    @Override
    public void settings(Automation s, Out out) {
        out.inputs(s.inputs());
        PutBack back = s.putBack();
        if (back != null) {
            out.line("put back with " + back.action() + (back.always() ? " always" : "")
                    + (back.repeatable() ? " even if unsure" : ""));
            out.below().inputs(back.inputs());
        }
    }

    // --- diagram

    @Override
    public Drawing drawing(Automation s) {
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
    public Optional<String> takesNothingAnew(Automation step, Visit visit, Here here) {
        return new CallRules(here).takesNothingAnew(visit, step);
    }

    @Override
    public void retryAnew(Automation step, Visit visit, Here here) {
        new CallRules(here).requestAnew(visit, step);
    }
}
