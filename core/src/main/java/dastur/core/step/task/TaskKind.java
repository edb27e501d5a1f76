package dastur.core.step.task;

import dastur.core.bpmn.Drawing;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.json.Texts;
import dastur.core.notation.Begun;
import dastur.core.notation.Out;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.people.Actor;
import dastur.core.people.Party;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsing;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Rechecks;
import dastur.core.run.Rings;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.Room;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Facts;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.StepId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** A person does something and says how it ended (N11). */
public final class TaskKind implements Room<HumanTask>, Rings<HumanTask>, Rechecks<HumanTask> {
    @Override
    public String word() {
        return "task";
    }

    @Override
    public Class<HumanTask> model() {
        return HumanTask.class;
    }

    @Override
    public List<Brings> brings() {
        return List.of(
                Brings.of(TaskEvents.TaskOffered.class),
                Brings.of(TaskEvents.TaskLeftOut.class),
                Brings.of(TaskEvents.TaskClaimed.class),
                Brings.of(TaskEvents.TaskHandedBack.class),
                Brings.of(TaskEvents.TaskTakenBack.class),
                Brings.of(TaskEvents.TaskPassedOn.class),
                Brings.of(TaskEvents.TaskDone.class),
                Brings.of(TaskEvents.HelpAsked.class),
                new Brings("task", OpenTask.class));
    }

    @Override
    public Facts facts(HumanTask step) {
        return Facts.PLAIN;
    }

    @Override
    public void yields(HumanTask step, Vocabulary.Declared declared, Yield into) {
        into.value("by", "Who did it", FieldType.PERSON)
                .value("note", "Note", FieldType.LONG_TEXT)
                .values(step.form() == null ? List.of() : step.form());
    }

    // --- runs

    @Override
    public void open(HumanTask step, VisitId visit, boolean guarded, Here here) {
        new TaskRules(here).offer(visit, step);
    }

    @Override
    public void rang(HumanTask step, Visit visit, Visit.Alarm alarm, Here here) {
        here.leave(Actor.CLOCK, visit, "overdue", "the time was up");
    }

    @Override
    public void recheck(HumanTask step, Visit visit, Here here) {
        if (visit.waiting() instanceof OpenTask task && new TaskRules(here).nobodyLeft(task)) {
            here.stall(
                    Actor.CLOCK,
                    visit,
                    "nobody",
                    "Nobody can do '" + task.name() + "' any more: those it was offered to have left. Fill the"
                            + " group or hand it to somebody, then retry.");
        }
    }

    @Override
    public List<Answer> options(HumanTask step, Visit visit, Rehearsing in) {
        if (!(visit.waiting() instanceof OpenTask task)) {
            return List.of();
        }
        List<Answer> options = new ArrayList<>();
        Rehearsing.expectedFirst(step, task.outcomes()).forEach(o -> options.add(Answer.does(step.id(), o)));
        if (task.mayLeaveOut()) {
            options.add(Answer.of(step.id(), Answer.Says.LEAVES_OUT));
        }
        return options;
    }

    @Override
    public Played give(HumanTask step, Visit visit, Answer answer, Rehearsing in) {
        OpenTask task = (OpenTask) visit.waiting();
        Actor doer = Actor.of(in.person(task.claimedBy(), task.to()));
        if (answer.says() == Answer.Says.LEAVES_OUT) {
            return in.handle(doer, new TaskCommands.LeaveOut(visit.id(), "left out in the rehearsal"));
        }
        String outcome = answer.exit() == null ? task.outcomes().getFirst() : answer.exit();
        Map<String, Object> form = new TreeMap<>(in.sample(task.form()));
        form.putAll(answer.given());
        return in.handle(doer, new TaskCommands.CompleteTask(visit.id(), outcome, form, null));
    }

    @Override
    public Optional<Answer> answered(StepId step, Event event, Span took) {
        return switch (event) {
            case TaskEvents.TaskDone e -> Optional.of(new Answer(step, Answer.Says.DOES, e.exit(), e.form(), took));
            case TaskEvents.TaskLeftOut e
            when e.by() != null -> Optional.of(new Answer(step, Answer.Says.LEAVES_OUT, null, null, took));
            case Event e -> Optional.empty();
        };
    }

    // --- findings

    @Override
    public void inspect(HumanTask s, Inspection in) {
        in.text(s, "instructions", s.instructions());
        in.somebody(s, "assignee", s.assignee());
        if (s.overseer() != null) {
            in.somebody(s, "overseer", s.overseer());
        }
        if (!Texts.blank(s.leftOutIf())) {
            in.condition(s, "leftOutIf", "The condition that leaves '" + s.name() + "' out", s.leftOutIf());
        }
        if (s.outcomes().isEmpty()) {
            in.blocks("no outcome", s, "outcomes", "'" + s.name() + "' has no outcome. Say how it can end.");
        }
        if (s.form() != null
                && s.form().stream().map(Field::name).distinct().count()
                        < s.form().size()) {
            in.blocks("same name twice", s, "form", "Two fields of '" + s.name() + "' have the same name.");
        }
        in.ladder(s, s.ladder(), s.due(), s.ways().containsKey("overdue"));
        if (s.ladder() != null && s.due() == null) {
            in.warns(
                    "ladder without due",
                    s,
                    "due",
                    "'" + s.name() + "' climbs a ladder but is never due. Say by when it should be done.");
        }
    }

    @Override
    public void reads(HumanTask s, Reads into) {
        into.text(s.instructions());
        into.party(s.assignee());
        if (s.overseer() != null) {
            into.party(s.overseer());
        }
        into.expression(s.leftOutIf());
    }

    // --- text

    @Override
    public List<String> heads() {
        return List.of("ask");
    }

    /** What is read of it. */
    private static final class Read {
        private @Nullable String instructions;
        private @Nullable Party overseer;
        private final List<String> outcomes = new ArrayList<>();
        private final List<Field> form = new ArrayList<>();
        private @Nullable LadderKey ladder;
        private @Nullable String leftOutIf;
        private boolean mayLeaveOut;
    }

    @Override
    public Begun begin(String head, Scanner in) {
        Read read = new Read();
        Party assignee = Phrases.party(in);
        String name = in.quoted("What is to be done");
        Span due = in.spanAfter("within").orElse(null);
        if (in.take(":")) {
            do {
                read.outcomes.add(in.atQuote() ? in.quoted("An outcome") : in.until("An outcome", List.of(",")));
            } while (in.take(","));
        }
        return new Begun(
                        name,
                        (id, ways, expected) -> new HumanTask(
                                id,
                                name,
                                read.instructions,
                                assignee,
                                read.overseer,
                                read.outcomes,
                                read.form.isEmpty() ? null : read.form,
                                due,
                                read.ladder,
                                read.leftOutIf,
                                read.mayLeaveOut,
                                ways,
                                expected))
                .line("say", line -> read.instructions = line.text())
                .line("overseen by", line -> read.overseer = Phrases.party(line.in()))
                .line("form", line -> read.form.add(Phrases.field(line.in())))
                .line("ladder", line -> read.ladder = Phrases.ladder(line.in()))
                .line(
                        "left out if",
                        line -> read.leftOutIf = Phrases.condition(line.in().rest("A condition")))
                .line("may be left out", line -> read.mayLeaveOut = true)
                .alone(end -> {
                    if (read.outcomes.isEmpty()) {
                        read.outcomes.add("Done");
                    }
                });
    }

    @Override
    public String sentence(HumanTask s) {
        return "ask " + Phrases.party(s.assignee()) + " " + Phrases.quoted(s.name()) + Phrases.within(s.due())
                + (s.outcomes().isEmpty() ? "" : ": ")
                + s.outcomes().stream().map(Phrases::quoted).collect(Collectors.joining(", "));
    }

    @Override
    public void settings(HumanTask s, Out out) {
        out.text("say", s.instructions());
        if (s.overseer() != null) {
            out.line("overseen by " + Phrases.party(s.overseer()));
        }
        if (s.form() != null) {
            s.form().forEach(f -> out.line("form " + Phrases.field(f)));
        }
        out.optional("ladder", s.ladder());
        out.optional("left out if", s.leftOutIf());
        out.flag("may be left out", s.mayLeaveOut());
    }

    // --- diagram

    @Override
    public Drawing drawing(HumanTask s) {
        return Drawing.of("userTask")
                .saying(s.instructions())
                .by(List.of(s.assignee()))
                .within(s.due());
    }

    @Override
    public String usualExit() {
        return "done";
    }

    @Override
    public Map<String, String> borderExits() {
        return Map.of("timerEventDefinition", "overdue");
    }
}
