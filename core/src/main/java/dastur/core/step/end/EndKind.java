package dastur.core.step.end;

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
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Step.End;
import dastur.core.workflow.Step.Ending;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The line ends: by itself, as failed, leaving what is around it, putting back, or with the whole run. */
public final class EndKind implements Room<End> {
    private static final Map<String, Ending> HEADS = new LinkedHashMap<>();

    static {
        HEADS.put("done", Ending.LINE);
        HEADS.put("fail", Ending.FAILED);
        HEADS.put("leave by", Ending.LEAVE);
        HEADS.put("put back", Ending.PUT_BACK);
        HEADS.put("stop", Ending.RUN);
    }

    @Override
    public String word() {
        return "end";
    }

    @Override
    public Class<End> model() {
        return End.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of();
    }

    @Override
    public Facts facts(End step) {
        return Facts.PLAIN.atOnce(true);
    }

    @Override
    public void yields(End step, Vocabulary.Declared declared, Yield into) {
        // How it ended is all there is.
    }

    // --- runs

    @Override
    public void open(End step, VisitId visit, boolean guarded, Here here) {
        here.end(visit, step);
    }

    @Override
    public List<Answer> options(End step, Visit visit, Rehearsing in) {
        return List.of();
    }

    @Override
    public Played give(End step, Visit visit, Answer answer, Rehearsing in) {
        return in.clockOnly(visit);
    }

    // --- findings

    @Override
    public void inspect(End step, Inspection in) {
        if (step.result().isBlank()) {
            in.blocks("no result", step, "result", "An end has no result. Say how it ended.");
        }
        in.text(step, "message", step.message());
    }

    @Override
    public void reads(End step, Reads into) {
        into.text(step.message());
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.copyOf(HEADS.keySet());
    }

    /** What is read of it. */
    private static final class Read {
        private @Nullable String message;
    }

    @Override
    public Begun begin(String head, Scanner in) {
        String result = in.quotedIfThere().orElse("done");
        String name = in.take("as") ? in.quoted("The step's name") : result;
        Read read = new Read();
        return new Begun(name, (id, ways, expected) -> new End(id, name, result, read.message, HEADS.get(head)))
                .line("say", line -> read.message = line.text());
    }

    @Override
    public String sentence(End step) {
        String head = HEADS.entrySet().stream()
                .filter(e -> e.getValue() == step.ending())
                .map(Map.Entry::getKey)
                .findFirst()
                .orElseThrow();
        return head + " " + Phrases.quoted(step.result())
                + (step.name().equals(step.result()) ? "" : " as " + Phrases.quoted(step.name()));
    }

    @Override
    public void settings(End step, Out out) {
        out.text("say", step.message());
    }

    // --- diagram

    @Override
    public Drawing drawing(End step) {
        return Drawing.of("endEvent").saying(step.message()).with(pen -> {
            switch (step.ending()) {
                case RUN -> pen.child("terminateEventDefinition");
                case FAILED -> pen.child("errorEventDefinition");
                case LINE, LEAVE, PUT_BACK -> {}
            }
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
