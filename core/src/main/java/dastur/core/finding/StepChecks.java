package dastur.core.finding;

import dastur.core.expression.ExpressionProblem;
import dastur.core.expression.Expressions;
import dastur.core.expression.TextTemplate;
import dastur.core.json.Texts;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.people.Rota;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Check;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Checks each step by itself: its people, expressions, texts, inputs and ladders. */
final class StepChecks {
    private final WorkflowVersion version;
    private final Surroundings around;
    private final Expressions expressions;
    private final Findings.Found found;
    private final ValueChecks values;

    StepChecks(WorkflowVersion version, Surroundings around, Expressions expressions, Findings.Found found) {
        this.version = version;
        this.around = around;
        this.expressions = expressions;
        this.found = found;
        this.values = new ValueChecks(version, around, expressions, found);
    }

    void check() {
        version.body().all().forEach(this::check);
        secrets();
        results();
    }

    /** What it gives to whoever calls it is computed when it ends. */
    private void results() {
        for (WorkflowVersion.Result r : version.results()) {
            expressions
                    .problemWithTyped(r.value(), r.field().type())
                    .ifPresent(p -> found.blocks(
                            "wrong expression",
                            null,
                            "results",
                            "What this workflow gives as '" + r.field().label() + "' cannot be understood: "
                                    + p.message()));
        }
    }

    private void check(Step step) {
        if (step.name().isBlank()) {
            found.blocks("no name", step.id(), "name", "A step has no name. Say in a few words what happens there.");
        }
        if (step.name().contains("{{")) {
            found.blocks(
                    "value in a name",
                    step.id(),
                    "name",
                    "The name of '" + step.name() + "' reaches people as it stands, braces too: a name is the same for"
                            + " all tickets. Put the value into the instructions, the question or the text.");
        }
        switch (step) {
            case Step.HumanTask s -> task(s);
            case Step.Approval s -> new ApprovalChecks(this, version, around, expressions, found).check(s);
            case Step.Branch s -> branch(s);
            case Step.Acting s -> acting(s);
            case Check s -> rules(s);
            case Step.Call s -> {}
            case Step.Escalate s -> callIn(s);
            case Bracket s -> {}
            case Step.Notify s -> notify(s);
            case Step.Update s -> update(s);
            case Step.Wait s -> waiting(s);
            case Step.End s -> {
                if (s.result().isBlank()) {
                    found.blocks("no result", s.id(), "result", "An end has no result. Say how it ended.");
                }
                text(s, "message", s.message());
            }
        }
    }

    private void task(Step.HumanTask s) {
        text(s, "instructions", s.instructions());
        somebody(s, "assignee", s.assignee());
        if (s.overseer() != null) {
            somebody(s, "overseer", s.overseer());
        }
        if (s.outcomes().isEmpty()) {
            found.blocks("no outcome", s.id(), "outcomes", "'" + s.name() + "' has no outcome. Say how it can end.");
        }
        if (s.form() != null
                && s.form().stream().map(Field::name).distinct().count()
                        < s.form().size()) {
            found.blocks("same name twice", s.id(), "form", "Two fields of '" + s.name() + "' have the same name.");
        }
        ladder(s, s.ladder(), s.due());
        if (s.ladder() != null && s.due() == null) {
            found.warns(
                    "ladder without due",
                    s.id(),
                    "due",
                    "'" + s.name() + "' climbs a ladder but is never due. Say by when it should be done.");
        }
    }

    private void branch(Step.Branch s) {
        if (s.cases().isEmpty() && s.table() == null) {
            found.blocks("no case", s.id(), "cases", "'" + s.name() + "' decides nothing: it has no case.");
        }
        if (s.table() != null) {
            s.table().inputs().forEach(i -> expressions
                    .problemWith(i.value())
                    .ifPresent(p -> wrong(s, "table", "The column '" + i.label() + "' of '" + s.name() + "'", p)));
        }
        s.cases().forEach(c -> expressions
                .problemWithCondition(c.when())
                .ifPresent(p -> wrong(s, "cases", "The condition of '" + c.name() + "' in '" + s.name() + "'", p)));
    }

    private void acting(Step.Acting s) {
        Optional<Action> action = around.actions().apply(s.action());
        if (action.isEmpty()) {
            found.blocks(
                    "unknown action",
                    s.id(),
                    "action",
                    "There is no action '" + s.action() + "' for '" + s.name() + "'.");
            return;
        }
        for (Field input : action.get().inputs()) {
            String expression = s.inputs().get(input.name());
            if (Texts.blank(expression)) {
                if (input.required()) {
                    found.blocks(
                            "input missing", s.id(), "inputs", "'" + s.name() + "' needs '" + input.label() + "'.");
                }
            } else {
                values.value(s, "inputs", "'" + input.label() + "' of '" + s.name() + "'", expression, input);
            }
        }
        s.inputs().keySet().stream()
                .filter(name ->
                        action.get().inputs().stream().noneMatch(i -> i.name().equals(name)))
                .forEach(name -> found.blocks(
                        "unknown input", s.id(), "inputs", "'" + action.get().name() + "' takes no '" + name + "'."));
        if (s.putBack() != null && around.actions().apply(s.putBack().action()).isEmpty()) {
            found.blocks(
                    "unknown action",
                    s.id(),
                    "putBack",
                    "There is no action '" + s.putBack().action() + "' to put '" + s.name() + "' back with.");
        }
        boolean endsItem = version.body()
                .all()
                .anyMatch(o ->
                        o instanceof Bracket.ForEach e && e.body().step(s.id()).isPresent());
        if (action.get().changesWorld() && !s.ways().containsKey("failed") && !endsItem) {
            found.warns(
                    "no way for failure",
                    s.id(),
                    null,
                    "When '" + s.name()
                            + "' fails, the run stalls until somebody looks. Lead 'failed' somewhere if it should go on.");
        }
        if (s.tries() != null && (s.tries() < 1 || s.tries() > 20)) {
            found.blocks("tries", s.id(), "tries", "'" + s.name() + "' is tried 1 to 20 times.");
        }
    }

    private void notify(Step.Notify s) {
        if (s.to().isEmpty() && s.room() == null) {
            found.blocks("nobody", s.id(), "to", "'" + s.name() + "' tells nobody.");
        }
        s.to().forEach(p -> somebody(s, "to", p));
        text(s, "subject", s.subject());
        text(s, "text", s.text());
        if (s.room() != null) {
            text(s, "room", s.room().name());
            if (s.room().name().isBlank()) {
                found.blocks("empty message", s.id(), "room", "The room of '" + s.name() + "' needs a name.");
            }
        }
        if (s.subject().isBlank() || s.text().isBlank()) {
            found.blocks("empty message", s.id(), "text", "'" + s.name() + "' needs a subject and a text.");
        }
    }

    private void update(Step.Update s) {
        if (s.set().isEmpty()) {
            found.blocks("nothing to set", s.id(), "set", "'" + s.name() + "' sets nothing.");
        }
        for (Step.Assignment set : s.set()) {
            Optional<Field> field = expressions.vocabulary().field(set.target());
            boolean settable = set.target().startsWith("ticket.")
                    || set.target().startsWith("ci.")
                    || set.target().startsWith("vars.");
            boolean fixed = List.of("ticket.number", "ticket.kind", "ticket.createdAt", "ci.id", "ci.kind")
                    .contains(set.target());
            if (field.isEmpty() || !settable || fixed) {
                found.blocks("unknown field", s.id(), "set", "'" + s.name() + "' cannot set '" + set.target() + "'.");
            } else if (set.text() != null) {
                text(s, "set", set.text());
                if (set.value() != null) {
                    found.blocks(
                            "two values", s.id(), "set", "'" + set.target() + "' has both a text and an expression.");
                }
            } else {
                values.value(
                        s,
                        "set",
                        "The value for '" + set.target() + "' in '" + s.name() + "'",
                        set.value() == null ? "" : set.value(),
                        field.get());
                values.state(s, set);
            }
        }
    }

    private void waiting(Step.Wait s) {
        long given = java.util.stream.Stream.of(s.span(), s.until(), s.condition(), s.signal(), s.replyOf())
                .filter(java.util.Objects::nonNull)
                .count();
        if (given != 1) {
            found.blocks(
                    "no time",
                    s.id(),
                    "span",
                    "'" + s.name() + "' waits for exactly one thing: a length of time, a moment, a condition, a"
                            + " signal or a reply.");
            return;
        }
        if (s.until() != null) {
            expressions
                    .problemWithTyped(s.until(), FieldType.TIME)
                    .ifPresent(p -> wrong(s, "until", "The moment of '" + s.name() + "'", p));
        }
        if (s.condition() != null) {
            expressions
                    .problemWithCondition(s.condition())
                    .ifPresent(p -> wrong(s, "condition", "The condition of '" + s.name() + "'", p));
        }
        if (s.key() != null) {
            expressions.problemWith(s.key()).ifPresent(p -> wrong(s, "key", "The key of '" + s.name() + "'", p));
        }
        if ((s.condition() != null || s.signal() != null || s.replyOf() != null) && s.within() == null) {
            found.warns(
                    "waits for ever",
                    s.id(),
                    "within",
                    "'" + s.name() + "' may wait for ever. Say how long at most, and what then.");
        }
    }

    private void rules(Check s) {
        if (s.rules().isEmpty()) {
            found.blocks("no rule", s.id(), "rules", "'" + s.name() + "' judges nothing: it has no rule.");
        }
        if (s.review() != null) {
            somebody(s, "review", s.review());
        }
        if (s.measure() != null && around.actions().apply(s.measure()).isEmpty()) {
            found.blocks(
                    "unknown action",
                    s.id(),
                    "measure",
                    "There is no action '" + s.measure() + "' for '" + s.name() + "'.");
        }
        for (Check.Rule r : s.rules()) {
            String what = "The rule '" + r.name() + "' of '" + s.name() + "'";
            (r.compare() == Check.Compare.HOLDS
                            ? expressions.problemWithCondition(r.value())
                            : expressions.problemWith(r.value()))
                    .ifPresent(p -> wrong(s, "rules", what, p));
            if (r.compare().needsAgainst()) {
                expressions
                        .problemWith(r.against() == null ? "" : r.against())
                        .ifPresent(p -> wrong(s, "rules", what, p));
            }
            for (StepId id : java.util.stream.Stream.of(r.capture(), r.after())
                    .filter(java.util.Objects::nonNull)
                    .toList()) {
                if (version.find(id).isEmpty()) {
                    found.blocks(
                            "unknown step",
                            s.id(),
                            "rules",
                            what + " names the step '" + id + "', which does not exist.");
                }
            }
        }
    }

    private void callIn(Step.Escalate s) {
        text(s, "message", s.message());
        ladder(s, s.ladder(), s.within());
        boolean asks = around.ladders()
                .apply(s.ladder())
                .filter(l -> l.rungs().stream()
                        .anyMatch(r -> r.deed() instanceof Rung.Tell
                                || r.deed() instanceof Rung.Add
                                || r.deed() instanceof Rung.HandOver))
                .isPresent();
        if (around.ladders().apply(s.ladder()).isPresent() && !asks) {
            found.blocks("nobody", s.id(), "ladder", "The ladder of '" + s.name() + "' asks nobody to come.");
        }
    }

    private static final java.util.regex.Pattern SECRET = java.util.regex.Pattern.compile(
            "(?i)(password|passwd|secret|token|api[_-]?key)\\s*[:=]\\s*['\"]?[^\\s'\"{}]{6,}");

    /** Secrets belong into connections: whoever may read a workflow or a record would read them. */
    private void secrets() {
        version.body().all().filter(s -> s.levels().isEmpty()).forEach(s -> {
            if (SECRET.matcher(dastur.core.json.Json.write(s)).find()) {
                found.blocks(
                        "secret in a text",
                        s.id(),
                        (String) null,
                        "'" + s.name() + "' seems to hold a secret. Put it into a connection instead.");
            }
        });
    }

    private void wrong(Step step, String field, String what, ExpressionProblem problem) {
        found.blocks("wrong expression", step.id(), field, what + " cannot be understood: " + problem.message());
    }

    void text(Step step, String field, @Nullable String text) {
        if (text == null) {
            return;
        }
        if (text.length() > Texts.MAX_TEXT) {
            found.blocks(
                    "text too long",
                    step.id(),
                    field,
                    "A text of '" + step.name() + "' is longer than " + Texts.MAX_TEXT + " characters.");
        }
        TextTemplate.parse(text)
                .problem(expressions)
                .ifPresent(p -> found.blocks(
                        "wrong text",
                        step.id(),
                        field,
                        "A text of '" + step.name() + "' cannot be filled in: " + p.message()));
    }

    void somebody(Step step, String field, Party party) {
        switch (party) {
            case Party.OfGroup g -> group(step, field, g.group());
            case Party.OfPerson p -> {
                if (around.people().apply(p.person()).filter(Person::active).isEmpty()) {
                    found.blocks(
                            "nobody",
                            step.id(),
                            field,
                            "'" + step.name() + "' names '" + p.person() + "', who is not an active person.");
                }
            }
            case Party.Requester r -> {}
            case Party.TicketGroup t -> {}
            case Party.CiOwner o -> {}
            case Party.OfRole r -> {}
            case Party.TakesPart t -> {}
            case Party.Manager m -> {}
            case Party.OnCall o -> onCall(step, field, o);
            case Party.Computed c ->
                expressions
                        .problemWithTyped(c.expression(), FieldType.TEXT)
                        .ifPresent(p -> wrong(step, field, "Who is meant in '" + step.name() + "'", p));
        }
    }

    /** A rota or a level of it that is not there. Gaps of a rota are shown on the rota itself: they depend on the day. */
    private void onCall(Step step, String field, Party.OnCall party) {
        Optional<Rota> rota = around.rotas().apply(party.rota());
        if (rota.isEmpty()) {
            found.blocks(
                    "unknown rota",
                    step.id(),
                    field,
                    "'" + step.name() + "' is for who is on call for '" + party.rota()
                            + "', a rota which does not exist.");
        } else if (party.level() > rota.get().levels().size()) {
            found.blocks(
                    "nobody",
                    step.id(),
                    field,
                    "'" + step.name() + "' is for level " + party.level() + " of "
                            + rota.get().name() + ", which has "
                            + rota.get().levels().size() + ".");
        }
    }

    private void group(Step step, String field, GroupId id) {
        Optional<Group> group = around.groups().apply(id);
        if (group.isEmpty()) {
            found.blocks(
                    "unknown group",
                    step.id(),
                    field,
                    "'" + step.name() + "' names the group '" + id + "', which does not exist.");
        } else if (group.get().members().stream()
                .noneMatch(m -> around.people().apply(m).filter(Person::active).isPresent())) {
            found.blocks(
                    "group with nobody",
                    step.id(),
                    field,
                    "'" + step.name() + "' is for " + group.get().name() + ", and nobody is in it.");
        }
    }

    void ladder(Step step, @Nullable LadderKey key, @Nullable Span due) {
        if (key == null) {
            return;
        }
        Optional<Ladder> ladder = around.ladders().apply(key);
        if (ladder.isEmpty()) {
            found.blocks(
                    "unknown ladder",
                    step.id(),
                    "ladder",
                    "'" + step.name() + "' climbs the ladder '" + key + "', which does not exist.");
            return;
        }
        for (Rung rung : ladder.get().rungs()) {
            switch (rung.deed()) {
                case Rung.Tell t -> t.to().forEach(p -> somebody(step, "ladder", p));
                case Rung.Add a -> a.to().forEach(p -> somebody(step, "ladder", p));
                case Rung.HandOver h -> somebody(step, "ladder", h.to());
                case Rung.Decide d -> {
                    if (!step.ways().containsKey(d.exit())) {
                        found.blocks(
                                "rung without a way",
                                step.id(),
                                "ladder",
                                "A rung of '" + ladder.get().name() + "' takes the exit '" + d.exit() + "', but '"
                                        + step.name() + "' has no way from there.");
                    }
                }
                case Rung.Remind r -> {}
                case Rung.RaisePriority r -> {}
            }
            boolean ends = step instanceof Step.Approval
                    || step instanceof Step.Escalate
                    || step instanceof Step.HumanTask && step.ways().containsKey("overdue");
            boolean afterEnd = ends
                    && due != null
                    && rung.after().roughSeconds() >= due.roughSeconds()
                    && rung.after().working() == due.working();
            if (afterEnd) {
                found.warns(
                        "rung after the end",
                        step.id(),
                        "ladder",
                        "A rung of '" + ladder.get().name() + "' fires after " + rung.after() + ", when '" + step.name()
                                + "' is already over.");
            }
        }
    }
}
