package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Step;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Claiming, handing back and completing human tasks (N11, N40). */
final class TaskRules {
    private final Deciding d;

    TaskRules(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> claim(Command.ClaimTask c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (isAnothers(task, person)) {
                return Optional.of(new Refusal(
                        Refusal.Code.TOO_LATE,
                        name(task.claimedBy()) + " has already claimed '" + task.name() + "'.",
                        null));
            }
            if (task.claimedBy() == null) {
                d.emit(
                        d.actor,
                        visit,
                        new Event.TaskClaimed(person, stopping(visit).isPresent() ? true : null));
            }
            return Optional.empty();
        });
    }

    Optional<Refusal> handBack(Command.HandBackTask c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (task.claimedBy() == null || isAnothers(task, person)) {
                return Optional.of(
                        Refusal.notYours("You have not claimed '" + task.name() + "', so you cannot hand it back."));
            }
            List<Event.PlannedRung> rungs = stopping(visit)
                    .map(ladder -> new Opening(d, d.site(visit)).rungs(ladder))
                    .orElse(null);
            d.emit(d.actor, visit, new Event.TaskHandedBack(person, rungs));
            return Optional.empty();
        });
    }

    /** The ladder of a task that stands still while somebody has it; empty where there is no such ladder. */
    private Optional<LadderKey> stopping(Visit visit) {
        return d.step(visit) instanceof Step.HumanTask t && t.ladder() != null
                ? d.lookups()
                        .ladder(t.ladder())
                        .filter(l -> l.stopsWhenClaimed() != null)
                        .map(Ladder::key)
                : Optional.empty();
    }

    Optional<Refusal> passOn(Command.PassOnTask c) {
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
            if (new Parties(d).active(c.to()).isEmpty()) {
                return Optional.of(Refusal.invalid("to", "There is nobody active there to pass it on to."));
            }
            d.emit(d.actor, visit, new Event.TaskPassedOn(person, c.to(), c.reason()));
            new Deliveries(d)
                    .queue(
                            visit.id().run(),
                            visit.step(),
                            visit.id(),
                            d.actor,
                            "notice",
                            new Parties(d).active(c.to()),
                            new Wanted(d).subject("Passed on to you: " + task.name()),
                            new Wanted(d)
                                    .with(
                                            name(person) + " passed '" + task.name() + "' on to you: " + c.reason(),
                                            visit));
            return Optional.empty();
        });
    }

    /** Others are asked to help: it is offered to them as well, and stays with whoever has it. */
    Optional<Refusal> askHelp(Command.AskHelp c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (Texts.blank(c.text()) || c.text().length() > Texts.MAX_TEXT || !Texts.keepable(c.text())) {
                return Optional.of(Refusal.invalid("text", "Say what you need help with."));
            }
            List<PersonId> asked = new Parties(d).active(c.to());
            if (asked.isEmpty()) {
                return Optional.of(Refusal.invalid("to", "There is nobody active there who could help."));
            }
            d.emit(d.actor, visit, new Event.HelpAsked(person, c.to(), c.text()));
            new Deliveries(d)
                    .queue(
                            visit.id().run(),
                            visit.step(),
                            visit.id(),
                            d.actor,
                            "notice",
                            asked,
                            new Wanted(d).subject("Help is asked for: " + task.name()),
                            new Wanted(d).with(name(person) + " asks you to help: " + c.text(), visit));
            return Optional.empty();
        });
    }

    Optional<Refusal> complete(Command.CompleteTask c) {
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
            d.emit(
                    d.actor,
                    visit,
                    new Event.TaskDone(
                            person,
                            c.outcome(),
                            Deciding.way(d.step(visit), c.outcome()),
                            oversees(task, person) ? true : null,
                            Values.withoutBlank(c.form()),
                            Texts.blank(c.note()) ? null : c.note()));
            return Optional.empty();
        });
    }

    Optional<Refusal> leaveOut(Command.LeaveOut c) {
        return onTask(c.visit(), (visit, task, person) -> {
            if (!task.mayLeaveOut()) {
                return Optional.of(Refusal.notYours("'" + task.name() + "' may not be left out."));
            }
            if (Texts.blank(c.reason()) || c.reason().length() > Texts.MAX_TEXT) {
                return Optional.of(Refusal.invalid("reason", "Say why it is left out: it goes onto the record."));
            }
            leftOut(d.actor, d.site(visit).id(), visit.id(), d.step(visit), person, c.reason());
            return Optional.empty();
        });
    }

    /** Leaves a task out, along its own exit for that or, unwired, along the expected one (N11). */
    void leftOut(Actor by, RunId run, VisitId visit, Step step, @Nullable PersonId person, String reason) {
        String exit = step.ways().containsKey("left out") ? "left out" : Deciding.expected(step);
        d.emit(by, run, step.id(), visit, new Event.TaskLeftOut(person, exit, Deciding.way(step, exit), reason));
    }

    private static Optional<Refusal> problemWithForm(Waiting.Task task, Map<String, Object> form) {
        Set<String> known = new HashSet<>();
        for (Field field : task.form()) {
            known.add(field.name());
            Optional<String> problem = field.problemWith(form.get(field.name()));
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
        Optional<Refusal> treat(Visit visit, Waiting.Task task, PersonId person);
    }

    private Optional<Refusal> onTask(VisitId id, OnTask then) {
        Optional<Visit> visit = d.now().visit(id);
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Waiting.Task task)) {
            return Optional.of(d.tooLate(id, "task"));
        }
        Optional<PersonId> person = d.person();
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("Only a person can do '" + task.name() + "'."));
        }
        if (!isOffered(task, person.get()) && !isOffered(task, d.principal().orElseThrow())) {
            return Optional.of(
                    Refusal.notYours("'" + task.name() + "' is not offered to you. It is for " + who(task.to()) + "."));
        }
        return then.treat(visit.get(), task, person.get());
    }

    private boolean isOffered(Waiting.Task task, PersonId person) {
        Parties parties = new Parties(d);
        return parties.isOneOf(person, task.to())
                || task.overseers() != null && parties.isOneOf(person, task.overseers());
    }

    /** Whether they may do it only because they oversee it. */
    private boolean oversees(Waiting.Task task, PersonId person) {
        Parties parties = new Parties(d);
        return !parties.isOneOf(person, task.to())
                && d.principal().filter(p -> parties.isOneOf(p, task.to())).isEmpty();
    }

    /** Whether somebody has claimed it for whom the person does not act. */
    private boolean isAnothers(Waiting.Task task, PersonId person) {
        return task.claimedBy() != null
                && !task.claimedBy().equals(person)
                && !d.principal().filter(task.claimedBy()::equals).isPresent();
    }

    private String who(Assigned assigned) {
        java.util.List<String> names = new java.util.ArrayList<>();
        assigned.groups()
                .forEach(g -> names.add(
                        d.lookups().group(g).map(dastur.core.people.Group::name).orElse(g.value())));
        assigned.people().forEach(p -> names.add(name(p)));
        return String.join(", ", names);
    }

    private String name(PersonId person) {
        return d.lookups().person(person).map(dastur.core.people.Person::name).orElse(person.value());
    }
}
