package dastur.core.notation;

import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.RotaKey;
import dastur.core.run.RuleSeen;
import dastur.core.step.approval.Approval;
import dastur.core.step.branch.Branch;
import dastur.core.step.branch.BranchCase;
import dastur.core.step.call.Call;
import dastur.core.step.call.Elsewhere;
import dastur.core.step.call.KnownTicket;
import dastur.core.step.call.NewTicket;
import dastur.core.step.calling.Automation;
import dastur.core.step.calling.PutBack;
import dastur.core.step.check.Check;
import dastur.core.step.notify.Invites;
import dastur.core.step.notify.Notify;
import dastur.core.step.notify.TicketRoom;
import dastur.core.step.task.HumanTask;
import dastur.core.step.update.Assignment;
import dastur.core.step.update.Update;
import dastur.core.step.waiting.Wait;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.DecisionTable;
import dastur.core.workflow.Known;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;

/** Random structured workflows: every step kind, nested brackets, ways forwards, back and to nowhere. */
public final class Generated {
    private static final List<String> TEXTS = List.of(
            "Look at the board",
            "Say \"yes\" – or not",
            "two\nlines, {{ ticket.number }}",
            "tab\there \\ and there",
            "  leads with spaces",
            "ends with spaces  ",
            "# no comment",
            "| no bar",
            "a: b -> c",
            "line\u2028separator",
            "");
    private static final List<String> CONDITIONS = List.of(
            "ticket.impact == 1",
            "ticket.impact <= 2 && service.passengers",
            "ticket.title == \"a, within 5 min\" || !has(ticket.ci)",
            "ticket.urgency in [1, 2]");

    private final Random random;
    private int count;

    private Generated(Random random) {
        this.random = random;
    }

    /** @param sound whether every exit leads somewhere and every level ends */
    public static WorkflowVersion workflow(Random random, boolean sound) {
        Generated g = new Generated(random);
        Level body = g.level(0, sound, true);
        Map<String, WorkflowVersion.Note> notes = new LinkedHashMap<>();
        body.all()
                .filter(s -> random.nextInt(5) == 0)
                .forEach(s -> notes.put(
                        s.id().value(),
                        new WorkflowVersion.Note(
                                random.nextBoolean() ? "a word to designers\nand another" : null,
                                random.nextBoolean() ? null : "3.2 Look at it (see \"manual\")")));
        notes.values().removeIf(n -> n.comment() == null && n.wording() == null);
        return new WorkflowVersion(
                new WorkflowKey("generated"),
                1,
                "Generated \"workflow\"",
                random.nextBoolean() ? "to test\nit" : null,
                new PersonId("teo"),
                random.nextBoolean() ? null : TicketKind.INCIDENT,
                random.nextBoolean()
                        ? List.of()
                        : List.of(new Field("lane", "Lane", FieldType.CHOICE, false, List.of("A", "B"), "which one")),
                List.of(Field.of("count", "How many", FieldType.WHOLE)),
                random.nextBoolean()
                        ? List.of()
                        : List.of(new WorkflowVersion.Result(Field.of("total", "Total", FieldType.WHOLE), "1 + 1")),
                random.nextBoolean() ? Map.of() : Map.of("urgent", "ticket.impact == 1"),
                notes,
                random.nextBoolean() ? null : 10 + random.nextInt(5_000),
                body);
    }

    private Level level(int depth, boolean sound, boolean top) {
        int size = 1 + random.nextInt(depth == 0 ? 6 : 3);
        List<StepId> ids = new ArrayList<>();
        for (int i = 0; i < size; i++) {
            ids.add(new StepId("s" + ++count));
        }
        StepId end = new StepId("e" + ++count);
        List<Step> steps = new ArrayList<>();
        for (int i = 0; i < size; i++) {
            Step bare = step(ids.get(i), depth, sound, Map.of());
            Map<String, StepId> ways = new LinkedHashMap<>();
            List<String> exits = new ArrayList<>(bare.exits(Known.NOTHING));
            for (int e = 0; e < exits.size(); e++) {
                boolean wired = sound || random.nextInt(6) > 0;
                StepId next = i + 1 < size ? ids.get(i + 1) : end;
                // The expected exit goes on in order, so that every step is reached and every way comes to the end.
                StepId to = e == 0 && sound ? next : random.nextInt(3) > 0 ? next : target(ids, end, i, sound);
                if (wired) {
                    ways.put(exits.get(e), to);
                }
            }
            steps.add(rewired(bare, ways));
        }
        steps.add(new Step.End(end, top ? "The end" : "done", top ? "ended" : "done", null, Step.Ending.LINE));
        return new Level(steps);
    }

    /** Sound ones lead forwards only: loops without a limit need luck to end. */
    private StepId target(List<StepId> ids, StepId end, int at, boolean sound) {
        int from = sound ? at + 1 : 0;
        return from >= ids.size() || random.nextInt(4) == 0 ? end : ids.get(from + random.nextInt(ids.size() - from));
    }

    private String text() {
        return TEXTS.get(random.nextInt(TEXTS.size()));
    }

    private String condition() {
        return CONDITIONS.get(random.nextInt(CONDITIONS.size()));
    }

    private <T> T maybe(T value) {
        return random.nextBoolean() ? value : null;
    }

    private ApprovalRule rule() {
        return switch (count % 6) {
            case 0 -> new ApprovalRule.Everyone();
            case 1 -> new ApprovalRule.AtLeast(2);
            case 2 -> new ApprovalRule.Majority();
            case 3 -> new ApprovalRule.Share(60);
            case 4 -> new ApprovalRule.InSequence();
            default -> new ApprovalRule.OneFromEach();
        };
    }

    private Party party(boolean sound) {
        return switch (random.nextInt(sound ? 2 : 10)) {
            case 0 -> new Party.OfGroup(new GroupId("technicians"));
            case 1 -> new Party.OfPerson(new PersonId("teo"));
            case 2 -> new Party.Requester();
            case 3 -> new Party.TicketGroup();
            case 4 -> new Party.CiOwner();
            case 5 -> new Party.OnCall(new RotaKey("network"), 1 + random.nextInt(5));
            case 6 -> new Party.OfRole(Role.values()[random.nextInt(Role.values().length)]);
            case 7 -> new Party.Manager();
            case 8 -> new Party.TakesPart("incident commander");
            default -> new Party.Computed("has(ticket.group) ? ticket.group : (\"technicians\")");
        };
    }

    /** In the room or into calendars, not both where it is to be sound. */
    private Notify notify(StepId id, boolean sound, Map<String, StepId> ways) {
        TicketRoom room = maybe(new TicketRoom("{{ ticket.number }} \"room\"", random.nextBoolean()));
        Invites invites = random.nextBoolean()
                ? new Invites(
                        "ticket.plannedStart", "ticket.plannedStart + hours(2)", maybe("at \"{{ ci.site }}\""), null)
                : sound ? null : new Invites(null, null, null, new StepId("earlier"));
        return new Notify(
                id,
                "Tell",
                List.of(party(sound)),
                "About {{ ticket.number }}",
                text(),
                room,
                sound && room != null ? null : invites,
                ways,
                null);
    }

    private Step step(StepId id, int depth, boolean sound, Map<String, StepId> ways) {
        int kinds = depth < 3 ? 16 : 11;
        return switch (random.nextInt(kinds)) {
            case 0, 1 -> task(id, sound, ways);
            case 2 ->
                new Approval(
                        id,
                        text(),
                        maybe(text()),
                        maybe("close it"),
                        List.of(party(sound)),
                        sound || random.nextBoolean() ? new ApprovalRule.AnyOne() : rule(),
                        !sound && random.nextBoolean(),
                        null,
                        List.of("ticket.ci", "ticket.title"),
                        random.nextBoolean(),
                        maybe(Span.parse("4 working h")),
                        null,
                        ways,
                        null,
                        sound || random.nextBoolean()
                                ? null
                                : new Approval.Terms(
                                        random.nextBoolean() ? List.of() : List.of(party(false)),
                                        random.nextBoolean(),
                                        random.nextBoolean(),
                                        random.nextBoolean() ? List.of() : List.of(party(false), party(false))));
            case 3 -> branch(id, ways);
            case 4 ->
                new Automation(
                        id,
                        text(),
                        new ActionKey("close-lane"),
                        Map.of("gate", "\"ALD-G1\""),
                        maybe(Span.parse("20 s")),
                        maybe(3),
                        maybe(new PutBack(
                                new ActionKey("close-lane"),
                                Map.of("gate", "\"ALD-G1\""),
                                random.nextBoolean(),
                                random.nextBoolean())),
                        ways,
                        null);
            case 5 -> notify(id, sound, ways);
            case 6 ->
                new Update(
                        id,
                        text(),
                        maybe("near.runsOn[0].id"),
                        List.of(
                                new Assignment("ticket.title", null, "new \"title\""),
                                new Assignment("ticket.category", "\"x = y\"", null)),
                        ways,
                        null);
            case 7 -> new Wait(id, text(), Span.parse("10 min"), null, ways, null);
            case 8 -> check(id, sound, ways);
            case 9 ->
                new Wait(
                        id,
                        text(),
                        null,
                        null,
                        sound ? "ticket.impact > 0" : condition(),
                        null,
                        null,
                        null,
                        maybe(Span.parse("2 h")),
                        ways,
                        null);
            case 10 -> elsewhere(id, sound, ways);
            case 11 -> new Bracket.Stage(id, text(), level(depth + 1, sound, false), ways, null);
            case 12 ->
                new Bracket.Fork(
                        id,
                        text(),
                        List.of(
                                new Bracket.Lane("left", null, level(depth + 1, sound, false)),
                                new Bracket.Lane("right", maybe(condition()), level(depth + 1, sound, false))),
                        maybe(1),
                        ways,
                        null);
            case 13, 14 ->
                new Bracket.ForEach(
                        id,
                        text(),
                        "[1, 2, 3]",
                        "item" + count,
                        1 + random.nextInt(3),
                        random.nextBoolean(),
                        level(depth + 1, sound, false),
                        ways,
                        null);
            default ->
                new Bracket.Repeat(
                        id,
                        text(),
                        sound ? "ticket.impact > 0" : condition(),
                        maybe(Span.parse("5 min")),
                        3,
                        maybe(Span.parse("1 h")),
                        level(depth + 1, sound, false),
                        ways,
                        null);
        };
    }

    /** A reply to wait for, or a workflow on another ticket; the sound ones only wait. */
    private Step elsewhere(StepId id, boolean sound, Map<String, StepId> ways) {
        if (sound || random.nextBoolean()) {
            return new Wait(
                    id, text(), null, null, null, null, null, party(sound), maybe(Span.parse("2 h")), ways, null);
        }
        Elsewhere on = random.nextBoolean()
                ? new KnownTicket("steps.order.ticket")
                : new NewTicket(TicketKind.CHANGE, Map.of("title", "\"About \" + ticket.title"));
        return new Call(id, text(), new WorkflowKey("other"), Map.of("lane", "\"A\""), maybe(on), ways, null);
    }

    private Step task(StepId id, boolean sound, Map<String, StepId> ways) {
        return new HumanTask(
                id,
                text(),
                maybe(text()),
                party(sound),
                maybe(party(sound)),
                random.nextBoolean() ? List.of("Done") : List.of("All well", "needs \"a\" part"),
                maybe(List.of(Field.of("seen", "What you saw", FieldType.TEXT))),
                maybe(Span.parse("30 min")),
                sound ? null : maybe(new LadderKey("pier")),
                maybe("ticket.impact > 3"),
                random.nextBoolean(),
                ways,
                null);
    }

    private Step branch(StepId id, Map<String, StepId> ways) {
        DecisionTable table = new DecisionTable(
                List.of(
                        new DecisionTable.Input("Impact", "ticket.impact"),
                        new DecisionTable.Input("Site", "ticket.title")),
                DecisionTable.Hit.FIRST,
                List.of(
                        new DecisionTable.Row(List.of("[1..2]", "\"a\", \"b\""), "urgent"),
                        new DecisionTable.Row(List.of("-", "-"), "usual")));
        return random.nextBoolean()
                ? new Branch(id, text(), List.of(), table, ways, null)
                : new Branch(
                        id,
                        text(),
                        List.of(new BranchCase("yes", condition()), new BranchCase("No way", condition())),
                        ways,
                        null);
    }

    private Step check(StepId id, boolean sound, Map<String, StepId> ways) {
        return new Check(
                id,
                text(),
                List.of(
                        new Check.Rule(
                                "impact",
                                "ticket.impact",
                                Check.Compare.WITHIN,
                                "4",
                                50.0,
                                RuleSeen.Sense.STAY,
                                null,
                                null,
                                null),
                        new Check.Rule(
                                "title", "ticket.title", Check.Compare.CONTAINS, "\"a\"", null, null, null, null, null),
                        new Check.Rule(
                                "holds", "ticket.impact > 0", Check.Compare.HOLDS, null, null, null, null, null, null)),
                null,
                Map.of(),
                maybe(Span.parse("5 min")),
                maybe(Span.parse("1 min")),
                sound ? null : maybe(party(false)),
                ways,
                null);
    }

    /** The same step with other ways. */
    public static Step rewired(Step step, Map<String, StepId> ways) {
        com.fasterxml.jackson.databind.node.ObjectNode node =
                (com.fasterxml.jackson.databind.node.ObjectNode) dastur.core.json.Json.tree(step);
        node.set("ways", dastur.core.json.Json.tree(ways));
        return dastur.core.json.Json.read(node.toString(), Step.class);
    }
}
