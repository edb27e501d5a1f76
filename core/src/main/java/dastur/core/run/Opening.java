package dastur.core.run;

import dastur.core.expression.Clause;
import dastur.core.expression.Expressions;
import dastur.core.expression.Outcome;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.Verdict;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Event.PlannedRung;
import dastur.core.time.Span;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Check;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Opens the next step that a token of a run stands before. */
final class Opening {
    /** Something in the design or data keeps a step from opening; it stalls with this reason. */
    static final class CannotOpen extends RuntimeException {
        final String code;

        CannotOpen(String code, String why) {
            super(why, null, false, false);
            this.code = code;
        }
    }

    private final Deciding d;
    private final Site site;
    private final Run run;
    /** Hours that count instead of the service's; null for none. */
    private final @Nullable WorkingCalendar hours;

    Opening(Deciding d, Site site) {
        this(d, site, null);
    }

    private Opening(Deciding d, Site site, @Nullable WorkingCalendar hours) {
        this.d = d;
        this.site = site;
        this.run = site.run();
        this.hours = hours;
    }

    /** Counts working time in the hours of the one group that is asked, if it has its own (decision 24). */
    Opening countingFor(Assigned asked) {
        return asked.groups().size() == 1 && asked.people().isEmpty()
                ? new Opening(
                        d,
                        site,
                        d.lookups().calendarOf(asked.groups().getFirst()).orElse(null))
                : this;
    }

    /** Opens the step before which the run's first token stands. */
    static void openNext(Deciding d, Run run) {
        Token token = run.ready().getFirst();
        new Opening(d, new Site(run, token.place())).open(VisitId.of(run.id(), run.visits() + 1), token.step(), true);
    }

    /** Opens a visit, anew when it had stalled. */
    void open(VisitId visit, StepId stepId, boolean guarded) {
        Step step = d.version(run).step(stepId);
        try {
            if (run.visits() >= d.version(run).limitOfVisits()) {
                throw new CannotOpen(
                        "too many visits",
                        "This run has had " + run.visits()
                                + " visits, the limit of its workflow. Stop it and look for the loop; or, if it is meant, raise the"
                                + " limit in a new version and move the run to it.");
            }
            switch (step) {
                case Step.HumanTask s -> task(visit, s);
                case Step.Approval s -> new ApprovalRules(d).ask(site, visit, s, round(visit));
                case Step.Branch s -> branch(visit, s);
                case Step.Acting s -> new CallRules(d).request(site, visit, s, guarded);
                case Step.Notify s when s.room() != null -> new Rooms(d).tell(site, visit, s, s.room());
                case Step.Notify s -> new Deliveries(d).notify(site, visit, s);
                case Step.Update s -> new Updates(d, site).update(visit, s);
                case Step.Wait s -> waitFor(visit, s);
                case Check s -> new Checks(d).begin(site, visit, s);
                case Step.Call s -> new CalledRuns(d).call(site, visit, s);
                case Step.Escalate s -> new CallIns(d).begin(site, visit, s);
                case Bracket s -> new Brackets(d).open(site, visit, s);
                case Step.End s -> end(visit, s);
            }
        } catch (CannotOpen cannot) {
            emit(visit, step, new Event.Stalled(cannot.code, cannot.getMessage()));
        }
    }

    /** A stalled approval that is asked again begins a further round. */
    private int round(VisitId visit) {
        return d.now()
                .visit(visit)
                .filter(v -> v.waiting() instanceof Waiting.Votes)
                .map(v -> ((Waiting.Votes) v.waiting()).round() + 1)
                .orElse(1);
    }

    private void emit(VisitId visit, Step step, Event event) {
        d.emit(Actor.SYSTEM, run.id(), step.id(), visit, event);
    }

    private void task(VisitId visit, Step.HumanTask step) {
        if (!Texts.blank(step.leftOutIf())
                && d.expressions(run).explain(step.leftOutIf(), d.scope(site)).verdict() == Verdict.TRUE) {
            new TaskRules(d).leftOut(Actor.SYSTEM, run.id(), visit, step, null, "because " + step.leftOutIf());
            return;
        }
        Parties parties = new Parties(d);
        Assigned to = parties.assigned(List.of(step.assignee()), site);
        if (parties.active(to).isEmpty()) {
            throw new CannotOpen(
                    "nobody", "Nobody can do '" + step.name() + "': the group it is for has no active members.");
        }
        Opening timed = countingFor(to);
        Instant due = step.due() == null ? null : timed.after(step.due());
        Assigned overseers = step.overseer() == null ? null : parties.assigned(List.of(step.overseer()), site);
        emit(
                visit,
                step,
                new Event.TaskOffered(
                        step.name(),
                        to,
                        overseers,
                        step.outcomes(),
                        step.form() == null ? List.of() : step.form(),
                        due,
                        Deciding.way(step, "overdue") != null,
                        step.mayLeaveOut() ? true : null,
                        timed.rungs(step.ladder()),
                        step.instructions() == null ? null : parties.render(step.instructions(), site)));
        d.now().visit(visit).filter(v -> v.waiting() instanceof Waiting.Task).ifPresent(v -> new Wanted(d)
                .tellOffered(v, (Waiting.Task) v.waiting()));
    }

    /** A ladder's rungs with their moments, fixed now (D28). */
    List<PlannedRung> rungs(@Nullable LadderKey key) {
        if (key == null) {
            return List.of();
        }
        Ladder ladder = d.lookups()
                .ladder(key)
                .orElseThrow(() -> new CannotOpen("no ladder", "The ladder '" + key + "' no longer exists."));
        List<PlannedRung> planned = new ArrayList<>();
        int number = 0;
        for (Rung rung : ladder.rungs()) {
            planned.add(new PlannedRung(++number, after(rung.after()), rung.deed()));
        }
        if (ladder.again() != null) {
            Instant from = d.at();
            for (int i = 0; i < ladder.again().times(); i++) {
                from = after(from, ladder.again().every());
                for (Rung rung : ladder.rungs()) {
                    if (rung.deed().takesNothingAway()) {
                        planned.add(new PlannedRung(++number, after(from, rung.after()), rung.deed()));
                    }
                }
            }
        }
        return planned;
    }

    Instant after(Span span) {
        return after(d.at(), span);
    }

    private Instant after(Instant from, Span span) {
        WorkingCalendar calendar =
                hours != null ? hours : d.lookups().calendar(d.scope(site).service());
        return calendar.after(from, span)
                .orElseThrow(() -> new CannotOpen(
                        "no working time",
                        "The calendar '" + calendar.name() + "' has no working time within 400 days."));
    }

    private void branch(VisitId visit, Step.Branch step) {
        Expressions expressions = d.expressions(run);
        List<Clause.Explained> seen = new ArrayList<>();
        String exit = "otherwise";
        for (Step.BranchCase branchCase : TableConditions.cases(step)) {
            Clause.Explained explained = expressions.explain(branchCase.when(), d.scope(site));
            seen.add(explained);
            if (explained.verdict() == Verdict.TRUE) {
                exit = branchCase.name();
                break;
            }
        }
        emit(visit, step, new Event.Branched(exit, Deciding.way(step, exit), seen));
    }

    private void waitFor(VisitId visit, Step.Wait step) {
        Instant limit = step.within() == null ? null : after(step.within());
        if (step.condition() != null) {
            emit(visit, step, new Event.WaitBegan(limit, step.condition(), null, null, null));
        } else if (step.replyOf() != null) {
            Assigned from = new Parties(d).assigned(List.of(step.replyOf()), site);
            if (from.nobody()) {
                throw new CannotOpen("nobody", "'" + step.name() + "' waits for a reply of nobody.");
            }
            emit(visit, step, new Event.WaitBegan(limit, null, null, null, from));
        } else if (step.signal() != null) {
            new Waits(d).signal(site, visit, step, limit);
        } else {
            Instant until = step.span() != null ? after(step.span()) : moment(step);
            emit(visit, step, new Event.WaitBegan(until, null, null, null, null));
        }
    }

    private Instant moment(Step.Wait step) {
        Outcome outcome =
                d.expressions(run).evaluate(Optional.ofNullable(step.until()).orElse(""), d.scope(site));
        if (outcome instanceof Outcome.Value v && v.value() instanceof String text) {
            try {
                return Instant.parse(text);
            } catch (java.time.format.DateTimeParseException e) {
                throw new CannotOpen("no time", "'" + step.until() + "' gives no time to wait for.");
            }
        }
        throw new CannotOpen("no time", "'" + step.until() + "' has no value to wait for. Fill it in, then retry.");
    }

    private void end(VisitId visit, Step.End step) {
        if (step.message() != null && !step.message().isBlank()) {
            Optional<PersonId> requester = d.now().text("requester").map(PersonId::new);
            if (requester.isPresent()) {
                String title = d.now().text("title").orElse("");
                new Deliveries(d)
                        .queue(
                                run.id(),
                                step.id(),
                                visit,
                                Actor.SYSTEM,
                                "answer",
                                List.of(requester.get()),
                                d.now().id() + ": " + title,
                                new Parties(d).render(step.message(), site));
            }
        }
        emit(visit, step, new Event.Ended(step.result(), step.ending() == Step.Ending.RUN, step.ending()));
        switch (step.ending()) {
            case RUN -> {
                d.run(run.id())
                        .open()
                        .values()
                        .forEach(v -> d.withdraw(Actor.SYSTEM, v, "the run ended with '" + step.result() + "'"));
                new RunEnds(d).end(run.id(), step.result());
            }
            case PUT_BACK -> new PutBacks(d).begin(site, step.result());
            default -> {
                Run after = d.run(run.id());
                if (after.open().isEmpty() && after.ready().isEmpty()) {
                    new RunEnds(d).end(run.id(), step.result());
                }
            }
        }
    }

    /** Evaluates an expression that must have a value. */
    static Outcome evaluate(Deciding d, Site site, String expression) {
        return d.expressions(site.run()).evaluate(expression, d.scope(site));
    }

    static String render(Deciding d, Site site, String text) {
        return TextTemplate.parse(text)
                .render(d.expressions(site.run()), d.scope(site), TextTemplate.Target.PLAIN)
                .text();
    }
}
