package dastur.core.step.call;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.step.Room;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Step;
import dastur.core.workflow.Step.Call;
import dastur.core.workflow.WorkflowKey;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Runs another workflow and waits for its result, here or on another ticket (N19, D11). */
public final class CallKind implements Room<Call> {
    @Override
    public String word() {
        return "call";
    }

    @Override
    public Class<Call> model() {
        return Call.class;
    }

    @Override
    public Facts facts(Call step) {
        return Facts.PLAIN.calling(step.workflow());
    }

    @Override
    public void yields(Call step, Vocabulary.Declared declared, Yield into) {
        Optional<List<Field>> results = declared.results(step.workflow());
        results.ifPresentOrElse(into::values, into::anything);
        if (step.on() != null) {
            into.value("ticket", "The ticket it ran on", FieldType.TEXT);
        }
    }

    // --- findings

    @Override
    public void inspect(Call s, Inspection in) {
        new CallChecks(in).check(s);
    }

    @Override
    public void reads(Call s, Reads into) {
        into.expressions(s.inputs().values());
        switch (s.on()) {
            case Step.NewTicket n -> into.expressions(n.fields().values());
            case Step.KnownTicket k -> into.expression(k.number());
            case null -> {}
        }
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("call");
    }

    @Override
    public Begun begin(String head, Scanner in) {
        WorkflowKey workflow = new WorkflowKey(in.named("workflow", in.names().workflows()));
        Map<String, String> inputs = new LinkedHashMap<>();
        Map<String, String> fields = new LinkedHashMap<>();
        TicketKind raises = in.take("on a new") ? kind(in) : null;
        String number = null;
        if (raises == null && in.take("on ticket")) {
            number = in.until("A ticket's number", List.of(" as \""));
            boolean ignored = in.take("as");
        }
        String name = in.quotedIfThere().orElse(in.names().workflows().getOrDefault(workflow.value(), "Call"));
        Phrases.inlineInputs(in, inputs);
        Step.Elsewhere known = number == null ? null : new Step.KnownTicket(number);
        Begun begun = new Begun(
                        name,
                        (id, ways, expected) -> new Call(
                                id,
                                name,
                                workflow,
                                inputs,
                                raises == null ? known : new Step.NewTicket(raises, fields),
                                ways,
                                expected))
                .line("with", line -> Phrases.input(line.in(), inputs));
        return raises == null ? begun : begun.line("set", line -> field(line.in(), fields));
    }

    private static TicketKind kind(Scanner in) {
        return Arrays.stream(TicketKind.values())
                .filter(k -> in.take(k.word()))
                .findFirst()
                .orElseThrow(() -> in.wrong("A kind of ticket is expected here: incident, change or request."));
    }

    /** A field of the new ticket: {@code ticket.title = expression}. */
    private static void field(Scanner in, Map<String, String> into) {
        String target = in.until("What is to be set", List.of(" = ")).strip();
        in.expect("=");
        into.put(target.replaceFirst("^ticket\\.", ""), in.rest("The value"));
    }

    @Override
    public String sentence(Call s) {
        return "call " + s.workflow() + elsewhere(s.on()) + " " + Phrases.quoted(s.name());
    }

    private static String elsewhere(Step.@Nullable Elsewhere on) {
        return switch (on) {
            case Step.NewTicket n -> " on a new " + n.raises().word();
            case Step.KnownTicket k -> " on ticket " + k.number() + " as";
            case null -> "";
        };
    }

    @Override
    public void settings(Call s, Out out) {
        if (s.on() instanceof Step.NewTicket n) {
            n.fields().forEach((name, expression) -> out.line("set ticket." + name + " = " + expression));
        }
        out.inputs(s.inputs());
    }

    // --- diagram

    @Override
    public Drawing drawing(Call s) {
        return Drawing.of("callActivity").with(pen -> pen.attribute("calledElement", "process." + s.workflow()));
    }

    @Override
    public String usualExit() {
        return "done";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("errorEventDefinition", "stopped");
    }
}
