package dastur.core.step.task;

import dastur.core.expression.Verdict;
import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.task.TaskCommands.AskHelp;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskCommands.HandBackTask;
import dastur.core.step.task.TaskCommands.LeaveOut;
import dastur.core.step.task.TaskCommands.PassOnTask;
import dastur.core.step.task.TaskCommands.TakeBack;
import dastur.core.step.task.TaskEvents.HelpAsked;
import dastur.core.step.task.TaskEvents.TaskClaimed;
import dastur.core.step.task.TaskEvents.TaskDone;
import dastur.core.step.task.TaskEvents.TaskHandedBack;
import dastur.core.step.task.TaskEvents.TaskLeftOut;
import dastur.core.step.task.TaskEvents.TaskOffered;
import dastur.core.step.task.TaskEvents.TaskPassedOn;
import dastur.core.step.task.TaskEvents.TaskTakenBack;
import dastur.core.ticket.Field;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Claiming, handing back and completing human tasks (N11, N40). */
final class TaskRules {
    private final Here here;

    TaskRules(Here here) {
        this.here = here;
    }

    Optional<Refusal> claim(ClaimTask c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (isAnothers(task, person)) {
                return Optional.of(new Refusal(
                        Refusal.Code.TOO_LATE,
                        name(task.claimedBy()) + " has already claimed '" + task.name() + "'.",
                        null));
            }
            if (task.claimedBy() == null) {
                here.emit(
                        here.actor(),
                        visit,
                        new TaskClaimed(person, stopping(visit).isPresent() ? true : null));
            }
            return Optional.empty();
        });
    }

    Optional<Refusal> handBack(HandBackTask c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (task.claimedBy() == null || isAnothers(task, person)) {
                return Optional.of(
                        Refusal.notYours("You have not claimed '" + task.name() + "', so you cannot hand it back."));
            }
            List<Event.PlannedRung> rungs =
                    stopping(visit).map(ladder -> here.rungs(ladder)).orElse(null);
            here.emit(here.actor(), visit, new TaskHandedBack(person, rungs));
            return Optional.empty();
        });
    }

    /** The ladder of a task that stands still while somebody has it; empty where there is no such ladder. */
    private Optional<LadderKey> stopping(Visit visit) {
        return here.step(visit) instanceof HumanTask t && t.ladder() != null
                ? here.lookups()
                        .ladder(t.ladder())
                        .filter(l -> l.stopsWhenClaimed() != null)
                        .map(Ladder::key)
                : Optional.empty();
    }

    Optional<Refusal> passOn(PassOnTask c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (isAnothers(task, person)) {
                return Optional.of(new Refusal(
                        Refusal.Code.TOO_LATE,
                        name(task.claimedBy()) + " has claimed '" + task.name() + "'. Ask them to pass it on.",
                        null));
            }
            if (Texts.blank(c.reason()) || c.reason().length() > Texts.MAX_TEXT || !Texts.keepable(c.reason())) {
                return Optional.of(Refusal.invalid("reason", "Say why you pass it on: it goes onto the record."));
            }
            if (here.active(c.to()).isEmpty()) {
                return Optional.of(Refusal.invalid("to", "There is nobody active there to pass it on to."));
            }
            here.emit(here.actor(), visit, new TaskPassedOn(person, c.to(), c.reason()));
            here.tell(
                    visit,
                    here.actor(),
                    "notice",
                    here.active(c.to()),
                    here.wanted().subject("Passed on to you: " + task.name()),
                    here.wanted().with(name(person) + " passed '" + task.name() + "' on to you: " + c.reason(), visit));
            return Optional.empty();
        });
    }

    /** Others are asked to help: it is offered to them as well, and stays with whoever has it. */
    Optional<Refusal> askHelp(AskHelp c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (Texts.blank(c.text()) || c.text().length() > Texts.MAX_TEXT || !Texts.keepable(c.text())) {
                return Optional.of(Refusal.invalid("text", "Say what you need help with."));
            }
            List<PersonId> asked = here.active(c.to());
            if (asked.isEmpty()) {
                return Optional.of(Refusal.invalid("to", "There is nobody active there who could help."));
            }
            here.emit(here.actor(), visit, new HelpAsked(person, c.to(), c.text()));
            here.tell(
                    visit,
                    here.actor(),
                    "notice",
                    asked,
                    here.wanted().subject("Help is asked for: " + task.name()),
                    here.wanted().with(name(person) + " asks you to help: " + c.text(), visit));
            return Optional.empty();
        });
    }

    Optional<Refusal> complete(CompleteTask c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (isAnothers(task, person)) {
                return Optional.of(new Refusal(
                        Refusal.Code.TOO_LATE,
                        name(task.claimedBy()) + " has claimed '" + task.name() + "'. Ask them to hand it back first.",
                        null));
            }
            if (!task.outcomes().contains(c.outcome())) {
                return Optional.of(Refusal.invalid(
                        "outcome",
                        "'" + Texts.clip(c.outcome(), 60) + "' is no outcome of '" + task.name()
                                + "'. It ends with one of: " + String.join(", ", task.outcomes()) + "."));
            }
            Optional<Refusal> wrong = problemWithForm(task, c.form());
            if (wrong.isPresent()) {
                return wrong;
            }
            if (c.note() != null && (c.note().length() > Texts.MAX_TEXT || !Texts.keepable(c.note()))) {
                return Optional.of(Refusal.invalid("note", "A note has at most " + Texts.MAX_TEXT + " characters."));
            }
            here.emit(
                    here.actor(),
                    visit,
                    new TaskDone(
                            person,
                            c.outcome(),
                            Here.way(here.step(visit), c.outcome()),
                            oversees(task, person) ? true : null,
                            Values.withoutBlank(c.form()),
                            Texts.blank(c.note()) ? null : c.note()));
            return Optional.empty();
        });
    }

    Optional<Refusal> takeBack(TakeBack c) {
        Optional<Refusal> refused = here.takeBack(c.visit());
        if (refused.isPresent()) {
            return refused;
        }
        Run run = here.ticket().open().get(c.visit().run());
        Visit done = Objects.requireNonNull(run.lastDone()).visit();
        String exit = String.valueOf(run.seen(done.place())
                .getOrDefault(done.step().value(), Map.of())
                .getOrDefault("outcome", ""));
        here.emit(here.actor(), done, new TaskTakenBack(here.person().orElseThrow(), exit));
        return Optional.empty();
    }

    Optional<Refusal> leaveOut(LeaveOut c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (!task.mayLeaveOut()) {
                return Optional.of(Refusal.notYours("'" + task.name() + "' may not be left out."));
            }
            if (Texts.blank(c.reason()) || c.reason().length() > Texts.MAX_TEXT) {
                return Optional.of(Refusal.invalid("reason", "Say why it is left out: it goes onto the record."));
            }
            leftOut(here.actor(), visit.id(), (HumanTask) here.step(visit), person, c.reason());
            return Optional.empty();
        });
    }

    /** Leaves a task out, along its own exit for that or, unwired, along the expected one (N11). */
    void leftOut(Actor by, VisitId visit, HumanTask step, @Nullable PersonId person, String reason) {
        String exit = step.ways().containsKey("left out") ? "left out" : Here.expected(step);
        here.emit(by, step.id(), visit, new TaskLeftOut(person, exit, Here.way(step, exit), reason));
    }

    /** Offers it, or leaves it out where its condition says so. */
    void offer(VisitId visit, HumanTask step) {
        boolean leftOut = !Texts.blank(step.leftOutIf())
                && here.expressions().explain(step.leftOutIf(), here.scope()).verdict() == Verdict.TRUE;
        if (leftOut) {
            leftOut(Actor.SYSTEM, visit, step, null, "because " + step.leftOutIf());
            return;
        }
        Assigned to = here.assigned(List.of(step.assignee()));
        if (here.active(to).isEmpty()) {
            throw new CannotOpen(
                    "nobody", "Nobody can do '" + step.name() + "': the group it is for has no active members.");
        }
        Here timed = here.countingFor(to);
        here.emit(
                Actor.SYSTEM,
                step.id(),
                visit,
                new TaskOffered(
                        step.name(),
                        to,
                        step.overseer() == null ? null : here.assigned(List.of(step.overseer())),
                        step.outcomes(),
                        step.form() == null ? List.of() : step.form(),
                        step.due() == null ? null : timed.after(step.due()),
                        Here.way(step, "overdue") != null,
                        step.mayLeaveOut() ? true : null,
                        timed.rungs(step.ladder()),
                        step.instructions() == null ? null : here.render(step.instructions())));
        here.visit(visit).ifPresent(this::tellOffered);
    }

    /** Tells those who are asked by name that they are; whoever belongs to a group sees it come up on their Desk. */
    private void tellOffered(Visit visit) {
        if (visit.waiting() instanceof OpenTask task && !task.to().people().isEmpty()) {
            Assigned byName = new Assigned(List.of(), task.to().people());
            here.ask(
                    visit,
                    Actor.SYSTEM,
                    "task",
                    here.active(byName),
                    here.wanted().subject("For you: " + task.name()),
                    here.wanted().of(visit));
        }
    }

    /** Whether nobody is left who could do it. */
    boolean nobodyLeft(OpenTask task) {
        boolean held = task.claimedBy() != null
                && here.lookups()
                        .person(task.claimedBy())
                        .filter(Person::active)
                        .isPresent();
        return !held
                && here.active(task.to()).isEmpty()
                && (task.overseers() == null || here.active(task.overseers()).isEmpty());
    }

    private Optional<Refusal> problemWithForm(OpenTask task, Map<String, Object> form) {
        Set<String> known = new HashSet<>();
        for (Field field : task.form()) {
            known.add(field.name());
            Optional<String> problem = here.problemWith(field, form.get(field.name()));
            if (problem.isPresent()) {
                return Optional.of(Refusal.invalid("form." + field.name(), problem.get()));
            }
        }
        return form.keySet().stream()
                .filter(name -> !known.contains(name))
                .findFirst()
                .map(name -> Refusal.invalid(
                        "form." + Texts.clip(name, 40),
                        "'" + task.name() + "' has no field '" + Texts.clip(name, 40) + "'."));
    }

    private interface OnTask {
        Optional<Refusal> treat(Visit visit, OpenTask task, PersonId person);
    }

    private Optional<Refusal> onTask(VisitId id, OnTask then) {
        Optional<Visit> visit = here.visit(id);
        if (visit.isEmpty() || !(visit.get().waiting() instanceof OpenTask task)) {
            return Optional.of(here.tooLate(id, "task"));
        }
        Optional<PersonId> person = here.person();
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("Only a person can do '" + task.name() + "'."));
        }
        if (!isOffered(task, person.get()) && !isOffered(task, here.principal().orElseThrow())) {
            return Optional.of(
                    Refusal.notYours("'" + task.name() + "' is not offered to you. It is for " + who(task.to()) + "."));
        }
        return then.treat(visit.get(), task, person.get());
    }

    private boolean isOffered(OpenTask task, PersonId person) {
        return here.isOneOf(person, task.to()) || task.overseers() != null && here.isOneOf(person, task.overseers());
    }

    /** Whether they may do it only because they oversee it. */
    private boolean oversees(OpenTask task, PersonId person) {
        return !here.isOneOf(person, task.to())
                && here.principal().filter(p -> here.isOneOf(p, task.to())).isEmpty();
    }

    /** Whether somebody has claimed it for whom the person does not act. */
    private boolean isAnothers(OpenTask task, PersonId person) {
        return task.claimedBy() != null
                && !task.claimedBy().equals(person)
                && !here.principal().filter(task.claimedBy()::equals).isPresent();
    }

    private String who(Assigned assigned) {
        java.util.List<String> names = new java.util.ArrayList<>();
        assigned.groups()
                .forEach(g -> names.add(here.lookups()
                        .group(g)
                        .map(dastur.core.people.Group::name)
                        .orElse(g.value())));
        assigned.people().forEach(p -> names.add(name(p)));
        return String.join(", ", names);
    }

    private String name(PersonId person) {
        return here.lookups()
                .person(person)
                .map(dastur.core.people.Person::name)
                .orElse(person.value());
    }
}
