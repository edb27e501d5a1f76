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
import dastur.core.people.Actor;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Reaches;
import dastur.core.run.RunId;
import dastur.core.run.Settles;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.step.Room;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Runs another workflow and waits for its result, here or on another ticket (N19, D11). */
public final class CallKind implements Room<Call>, Settles, Reaches<Call> {
    @Override
    public String word() {
        return "call";
    }

    @Override
    public Class<Call> model() {
        return Call.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of(
                Brings.of(CallEvents.WorkflowCalled.class),
                Brings.of(CallEvents.SentRunBegan.class),
                Brings.of(CallEvents.SentRunEnded.class),
                Brings.of(CallEvents.CalledEnded.class));
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

    // --- runs

    @Override
    public void open(Call step, VisitId visit, boolean guarded, Here here) {
        new CallRunRules(here).call(visit, step);
    }

    @Override
    public Optional<String> reaches(Call step, Here here) {
        return Optional.ofNullable(step.on()).map(on -> "run '" + step.workflow() + "' on another ticket");
    }

    @Override
    public int turn() {
        return 10;
    }

    @Override
    public void settle(Here here) {
        new CallRunRules(here).settle();
    }

    @Override
    public List<Answer> options(Call step, Visit visit, Rehearsing in) {
        if (!(visit.waiting() instanceof Waiting.Sent sent)) {
            return List.of();
        }
        List<Answer> options = new ArrayList<>();
        Rehearsing.expectedFirst(step, in.endings(sent.workflow()))
                .forEach(e -> options.add(Answer.does(step.id(), e)));
        options.add(Answer.of(step.id(), Answer.Says.FAILS));
        return options;
    }

    @Override
    public Played give(Call step, Visit visit, Answer answer, Rehearsing in) {
        if (!(visit.waiting() instanceof Waiting.Sent)) {
            return in.clockOnly(visit);
        }
        boolean stopped = answer.says() == Answer.Says.FAILS;
        String result = answer.exit() == null ? "" : answer.exit();
        RunId other = RunId.of(new TicketId("elsewhere"), 1);
        return in.handle(Actor.SYSTEM, new CallCommands.SentEnded(visit.id(), other, result, stopped, answer.given()));
    }

    @Override
    public Optional<Answer> answered(StepId step, Event event, Span took) {
        return event instanceof CallEvents.SentRunEnded e
                ? Optional.of(new Answer(
                        step, e.stopped() ? Answer.Says.FAILS : Answer.Says.DOES, e.result(), e.results(), took))
                : Optional.empty();
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
            case NewTicket n -> into.expressions(n.fields().values());
            case KnownTicket k -> into.expression(k.number());
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
        Elsewhere known = number == null ? null : new KnownTicket(number);
        Begun begun = new Begun(
                        name,
                        (id, ways, expected) -> new Call(
                                id,
                                name,
                                workflow,
                                inputs,
                                raises == null ? known : new NewTicket(raises, fields),
                                ways,
                                expected))
                .line("with", line -> Phrases.input(line.in(), inputs));
        return raises == null ? begun : begun.line("set", line -> field(line.in(), fields));
    }

    private static TicketKind kind(Scanner in) {
        return Arrays.stream(TicketKind.values())
                .filter(TicketKind::isRaisedByPeople)
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

    private static String elsewhere(@Nullable Elsewhere on) {
        return switch (on) {
            case NewTicket n -> " on a new " + n.raises().word();
            case KnownTicket k -> " on ticket " + k.number() + " as";
            case null -> "";
        };
    }

    @Override
    public void settings(Call s, Out out) {
        if (s.on() instanceof NewTicket n) {
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
