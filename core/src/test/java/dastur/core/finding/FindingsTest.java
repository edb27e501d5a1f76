package dastur.core.finding;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.run.World;
import dastur.core.step.approval.Approval;
import dastur.core.step.branch.Branch;
import dastur.core.step.branch.BranchCase;
import dastur.core.step.call.Call;
import dastur.core.step.calling.Automation;
import dastur.core.step.notify.Invites;
import dastur.core.step.notify.Notify;
import dastur.core.step.notify.TicketRoom;
import dastur.core.step.task.HumanTask;
import dastur.core.step.update.Assignment;
import dastur.core.step.update.Update;
import dastur.core.step.waiting.Wait;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Rhythm;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Level;
import dastur.core.workflow.Limit;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;

/** Each faulty workflow has its one blocking finding; sound ones have none. */
class FindingsTest {
    private static final Step END = new Step.End(id("end"), "End", "done", null, false);
    private static final Party TECHNICIANS = new Party.OfGroup(World.TECHNICIANS);

    private static final KnownOrganisation AROUND = new KnownOrganisation(
            new FieldCatalogue(
                    List.of(Field.of("lockNumber", "Lock", FieldType.TEXT)),
                    List.of(Field.of("lane", "Lane", FieldType.TEXT))),
            g -> switch (g.value()) {
                case "technicians" -> Optional.of(new Group(g, "Pier technicians", List.of(World.RUNA, World.SEM)));
                case "managers" -> Optional.of(new Group(g, "Duty managers", List.of(World.TEO, World.PRIYA)));
                case "empty" -> Optional.of(new Group(g, "Nobody’s group", List.of()));
                default -> Optional.empty();
            },
            p -> p.value().equals("gone")
                    ? Optional.empty()
                    : Optional.of(new Person(p, p.value(), "", Set.of(Role.AGENT), true)),
            a -> a.value().equals("close-lane")
                    ? Optional.of(new Action(
                                    a,
                                    "Close",
                                    "Closes.",
                                    "lanes",
                                    new Action.HttpCall("POST", "/x", null, null, null),
                                    List.of(
                                            Field.of("gate", "Gate", FieldType.TEXT)
                                                    .asRequired(),
                                            Field.of("why", "Why", FieldType.TEXT)),
                                    List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "/lock")),
                                    List.of(),
                                    Action.Repeat.KEYED,
                                    true,
                                    Span.parse("5 s"),
                                    1,
                                    Span.parse("1 s"))
                            .limited(Map.of("why", new Limit(null, null, "[a-z ]*", null, null))))
                    : Optional.empty(),
            l -> switch (l.value()) {
                case "pier" ->
                    Optional.of(new Ladder(
                            l,
                            "Pier",
                            List.of(
                                    new Rung(Span.parse("20 min"), new Rung.Remind()),
                                    new Rung(Span.parse("30 min"), new Rung.Decide("Close the lane")))));
                case "gives-up" ->
                    Optional.of(new Ladder(
                            l, "Gives up", List.of(new Rung(Span.parse("5 min"), new Rung.Decide("Give up")))));
                default -> Optional.empty();
            });

    static Stream<Arguments> faulty() {
        return Stream.of(
                Arguments.of("empty", version()),
                Arguments.of(
                        "exit without a way",
                        version(task("a", "A", TECHNICIANS, Map.of()), END).withoutUnreached()),
                Arguments.of(
                        "never reached",
                        version(
                                task("a", "A", TECHNICIANS, ways("Done", "end")),
                                END,
                                new Step.End(id("lost"), "Lost", "x", null, false))),
                Arguments.of("no end", version(wait("a", "b"), wait("b", "a"))),
                Arguments.of("way to nowhere", version(task("a", "A", TECHNICIANS, ways("Done", "missing")), END)),
                Arguments.of(
                        "unknown exit",
                        version(task("a", "A", TECHNICIANS, ways("Done", "end", "Exploded", "end")), END)),
                Arguments.of(
                        "same name twice",
                        version(
                                new HumanTask(
                                        id("a"),
                                        "A",
                                        null,
                                        TECHNICIANS,
                                        null,
                                        List.of("Done", "Done"),
                                        null,
                                        null,
                                        null,
                                        ways("Done", "end"),
                                        null),
                                END)),
                Arguments.of("no name", version(task("a", " ", TECHNICIANS, ways("Done", "end")), END)),
                Arguments.of("no result", version(new Step.End(id("end"), "End", " ", null, false))),
                Arguments.of(
                        "unknown group",
                        version(task("a", "A", new Party.OfGroup(new GroupId("nowhere")), ways("Done", "end")), END)),
                Arguments.of(
                        "group with nobody",
                        version(task("a", "A", new Party.OfGroup(new GroupId("empty")), ways("Done", "end")), END)),
                Arguments.of(
                        "nobody",
                        version(task("a", "A", new Party.OfPerson(new PersonId("gone")), ways("Done", "end")), END)),
                Arguments.of(
                        "nobody", version(approval(List.of(), new ApprovalRule.AnyOne(), List.of("ticket.ci")), END)),
                Arguments.of(
                        "cannot be met",
                        version(
                                approval(
                                        List.of(new Party.OfGroup(World.MANAGERS)),
                                        new ApprovalRule.AtLeast(3),
                                        List.of("ticket.ci")),
                                END)),
                Arguments.of(
                        "unknown field",
                        version(
                                approval(
                                        List.of(new Party.OfGroup(World.MANAGERS)),
                                        new ApprovalRule.AnyOne(),
                                        List.of("ticket.nope")),
                                END)),
                Arguments.of("wrong expression", version(branch("ticket.impact = 1"), END)),
                Arguments.of("wrong expression", version(branch("ticket.impact"), END)),
                Arguments.of("wrong expression", version(branch("steps.nowhere.outcome == 'x'"), END)),
                Arguments.of(
                        "no case", version(new Branch(id("a"), "A", List.of(), ways("otherwise", "end"), null), END)),
                Arguments.of("unknown action", version(automation("open-lane", Map.of()), END)),
                Arguments.of("input missing", version(automation("close-lane", Map.of("why", "ticket.title")), END)),
                Arguments.of(
                        "unknown input",
                        version(automation("close-lane", Map.of("gate", "ticket.ci", "colour", "'red'")), END)),
                Arguments.of(
                        "beyond its limit",
                        version(automation("close-lane", Map.of("gate", "ticket.ci", "why", "'rm -rf /'")), END)),
                Arguments.of(
                        "wrong expression", version(automation("close-lane", Map.of("gate", "ticket.impact")), END)),
                Arguments.of("wrong text", version(notify("{{ ticket.nope }}"), END)),
                Arguments.of("wrong text", version(notify("{{ ticket.title"), END)),
                Arguments.of("empty message", version(notify(" "), END)),
                Arguments.of("unknown field", version(update("ticket.number", "'x'"), END)),
                Arguments.of("unknown field", version(update("service.name", "'x'"), END)),
                Arguments.of("wrong expression", version(update("ticket.impact", "'high'"), END)),
                Arguments.of("unknown value", version(update("ticket.group", "'night-owls'"), END)),
                Arguments.of("unknown value", version(update("ticket.group", "\"Not a key\""), END)),
                Arguments.of("unknown value", version(update("ticket.requester", "'gone'"), END)),
                Arguments.of("unknown value", version(update("ticket.state", "'asleep'"), END)),
                Arguments.of(
                        "value in a name",
                        version(task("a", "Look at {{ ci.name }}", TECHNICIANS, ways("Done", "end")), END)),
                Arguments.of(
                        "nothing to set",
                        version(new Update(id("a"), "A", null, List.of(), ways("done", "end"), null), END)),
                Arguments.of("two CIs", version(of("'crew-7'", "ci.id", "ci.kind"), END)),
                Arguments.of("wrong expression", version(of("crew-7", "ci.name"), END)),
                Arguments.of("no invitation", version(inviting(new Invites(null, null, null, id("end")), null), END)),
                Arguments.of("no invitation", version(inviting(new Invites(null, null, null, id("a")), null), END)),
                Arguments.of("wrong expression", version(inviting(new Invites("now", "1", null, null), null), END)),
                Arguments.of("wrong expression", version(inviting(new Invites(null, "now", null, null), null), END)),
                Arguments.of(
                        "two ways",
                        version(
                                inviting(
                                        new Invites("now", "now", null, null),
                                        new TicketRoom("{{ ticket.number }}", false)),
                                END)),
                Arguments.of("no time", version(new Wait(id("a"), "A", null, null, ways("done", "end"), null), END)),
                Arguments.of(
                        "wrong expression",
                        version(new Wait(id("a"), "A", null, "ticket.title", ways("done", "end"), null), END)),
                Arguments.of("unknown ladder", version(laddered("none"), END)),
                Arguments.of("rung without a way", version(laddered("gives-up"), END)));
    }

    @ParameterizedTest(name = "{0}")
    @MethodSource("faulty")
    void aFaultIsFoundAndBlocks(String code, Faulty faulty) {
        List<Finding> blocking = Findings.of(faulty.version(), List.of(hand()), AROUND).stream()
                .filter(Finding::blocks)
                .filter(f -> !faulty.ignored().contains(f.code()))
                .toList();
        assertThat(blocking).extracting(Finding::code).isNotEmpty().containsOnly(code);
        assertThat(blocking.getFirst().message()).matches("(?s).*[.?]").doesNotContain("dastur.", "java.");
    }

    @Test
    void aSoundWorkflowHasNoFindings() {
        assertThat(Findings.of(World.gateWorkflow(new ApprovalRule.AnyOne()), List.of(hand()), AROUND))
                .filteredOn(Finding::blocks)
                .isEmpty();
    }

    @Test
    void triggersAreCheckedToo() {
        WorkflowVersion sound = World.gateWorkflow(new ApprovalRule.AnyOne());
        assertThat(triggerCodes(sound, new Trigger.Created(null), "ticket.nope == 1"))
                .containsExactly("wrong expression");
        assertThat(triggerCodes(sound, new Trigger.FieldReaches(null, "nope", "x"), null))
                .containsExactly("unknown field");
        assertThat(triggerCodes(sound, new Trigger.FieldReaches(null, "group", "managers"), null))
                .isEmpty();
        assertThat(Findings.of(sound, List.of(), AROUND))
                .extracting(Finding::code)
                .contains("no trigger");
    }

    @Test
    void whatStartsByItselfIsCheckedToo() {
        WorkflowVersion sound = World.gateWorkflow(new ApprovalRule.AnyOne());
        Rhythm daily = new Rhythm(
                "FREQ=DAILY", LocalDateTime.parse("2026-11-29T04:15"), ZoneId.of("Europe/Berlin"), null, null);
        assertThat(triggerCodes(
                        sound, new Trigger.TimeComes(TicketKind.INCIDENT, daily, null, Map.of(), null, null), null))
                .isEmpty();
        assertThat(triggerCodes(sound, new Trigger.TimeComes(null, daily, null, Map.of(), null, null), null))
                .as("a routine, and it is for incidents")
                .containsExactly("never fires");
        assertThat(triggerCodes(
                        sound,
                        new Trigger.TimeComes(TicketKind.INCIDENT, daily, null, Map.of("nope", "1 +"), null, null),
                        null))
                .containsExactlyInAnyOrder("start form", "wrong expression");
        assertThat(triggerCodes(sound, new Trigger.Called(TicketKind.INCIDENT, null, null), "ticket.impact == 1"))
                .as("there is no ticket of which a condition could speak")
                .containsExactly("never fires");
    }

    private static List<String> triggerCodes(WorkflowVersion version, Trigger.When when, String condition) {
        return Findings.of(version, List.of(new Trigger(new TriggerId("t"), true, when, List.of(), condition)), AROUND)
                .stream()
                .filter(Finding::blocks)
                .map(Finding::code)
                .toList();
    }

    record Faulty(WorkflowVersion version, Set<String> ignored) {
        /** The end cannot be reached either when the only way to it is missing. */
        Faulty withoutUnreached() {
            return new Faulty(version, Set.of("never reached", "no end"));
        }
    }

    private static Faulty version(Step... steps) {
        boolean wayless = Stream.of(steps).anyMatch(s -> s.ways().containsValue(id("missing")));
        return new Faulty(
                new WorkflowVersion(
                        new WorkflowKey("w"),
                        1,
                        "W",
                        null,
                        World.TEO,
                        TicketKind.INCIDENT,
                        List.of(),
                        List.of(),
                        new Level(List.of(steps))),
                wayless ? Set.of("never reached", "no end") : Set.of());
    }

    private static Trigger hand() {
        return new Trigger(new TriggerId("hand"), true, new Trigger.ByHand(null), List.of(), null);
    }

    private static Step task(String id, String name, Party who, Map<String, StepId> ways) {
        return new HumanTask(id(id), name, null, who, null, List.of("Done"), null, null, null, ways, null);
    }

    private static Step laddered(String ladder) {
        return new HumanTask(
                id("a"),
                "A",
                null,
                TECHNICIANS,
                null,
                List.of("Done"),
                null,
                Span.parse("30 min"),
                new LadderKey(ladder),
                ways("Done", "end"),
                null);
    }

    // --- whose actions they are

    private static List<Finding> withTerms(List<GroupId> groups) {
        KnownOrganisation letting = new KnownOrganisation(
                AROUND.fields(),
                AROUND.groups(),
                AROUND.people(),
                AROUND.actions(),
                AROUND.ladders(),
                AROUND.workflows(),
                List.of(),
                AROUND.rotas(),
                AROUND.callers(),
                List.of(),
                key -> Optional.of(new TermsOfUse(key, null, groups, null, null, null, null, null)));
        return Findings.of(
                version(automation("close-lane", Map.of("gate", "ticket.ci")), END)
                        .version(),
                List.of(),
                letting);
    }

    /** M5: asked when it is published, as when it begins. */
    @Test
    void anActionThatItsOwnerMayNotUseKeepsAWorkflowFromBeingPublished() {
        assertThat(withTerms(List.of(World.TECHNICIANS)))
                .filteredOn(Finding::blocks)
                .singleElement()
                .satisfies(f -> {
                    assertThat(f.code()).isEqualTo("not for this owner");
                    assertThat(f.field()).isEqualTo("action");
                    assertThat(f.message()).contains("may be used by Pier technicians");
                });
        assertThat(withTerms(List.of(World.TECHNICIANS, World.MANAGERS)))
                .extracting(Finding::code)
                .doesNotContain("not for this owner");
    }

    // --- beside other workflows

    private static KnownOrganisation beside(List<WorkflowVersion> callers, Trigger.Live... triggers) {
        return new KnownOrganisation(
                AROUND.fields(),
                AROUND.groups(),
                AROUND.people(),
                AROUND.actions(),
                AROUND.ladders(),
                AROUND.workflows(),
                List.of(triggers),
                AROUND.rotas(),
                key -> callers);
    }

    private static WorkflowVersion caller(String... results) {
        Map<String, StepId> ways = new java.util.LinkedHashMap<>();
        for (String result : results) {
            ways.put(result, id("end"));
        }
        return version(new Call(id("sub"), "Sub", new WorkflowKey("w"), Map.of(), ways, null), END)
                .version();
    }

    @Test
    void aResultThatCallersLeadNowhereKeepsAVersionFromBeingPublished() {
        WorkflowVersion callee =
                version(task("a", "A", TECHNICIANS, ways("Done", "end")), END).version();
        String result = callee.endings().getFirst();
        assertThat(Findings.of(callee, List.of(), beside(List.of(caller(result)))))
                .extracting(Finding::code)
                .doesNotContain("callers do not expect it");
        assertThat(Findings.of(callee, List.of(), beside(List.of(caller("other")))))
                .anyMatch(f -> f.code().equals("callers do not expect it")
                        && f.blocks()
                        && f.message().contains(result));
    }

    private static Trigger trigger(String id, String condition, boolean givesWay, ServiceId... services) {
        return new Trigger(
                new TriggerId(id),
                true,
                new Trigger.Created(TicketKind.INCIDENT),
                List.of(services),
                condition,
                Trigger.Mode.STARTS,
                givesWay);
    }

    @Test
    void aTriggerThatGivesWayBehindOneThatAlwaysStartsIsHidden() {
        WorkflowVersion version =
                version(task("a", "A", TECHNICIANS, ways("Done", "end")), END).version();
        ServiceId gates = new ServiceId("gates");
        record Story(Trigger earlier, Trigger own, boolean hidden) {}
        for (Story story : List.of(
                new Story(trigger("e", null, false), trigger("o", "ticket.impact == 1", true, gates), true),
                new Story(trigger("e", null, false), trigger("o", null, false), false),
                new Story(trigger("e", "ticket.impact == 1", false), trigger("o", null, true), false),
                new Story(trigger("e", null, false, gates), trigger("o", null, true), false))) {
            Trigger.Live before = new Trigger.Live(new WorkflowKey("other"), 1, "Other", story.earlier());
            Trigger.Live own = new Trigger.Live(version.key(), 1, version.name(), story.own());
            assertThat(Findings.of(version, List.of(story.own()), beside(List.of(), before, own)).stream()
                            .anyMatch(f -> f.code().equals("hidden trigger")))
                    .as("%s", story)
                    .isEqualTo(story.hidden());
            assertThat(Findings.of(version, List.of(story.own()), beside(List.of(), own, before)))
                    .extracting(Finding::code)
                    .doesNotContain("hidden trigger");
        }
    }

    private static Step approval(List<Party> asked, ApprovalRule rule, List<String> shown) {
        return new Approval(
                id("a"),
                "A",
                null,
                null,
                asked,
                rule,
                false,
                null,
                shown,
                true,
                null,
                null,
                ways("approved", "end", "declined", "end"),
                null);
    }

    private static Step branch(String condition) {
        return new Branch(
                id("a"), "A", List.of(new BranchCase("yes", condition)), ways("yes", "end", "otherwise", "end"), null);
    }

    private static Step automation(String action, Map<String, String> inputs) {
        return new Automation(id("a"), "A", new ActionKey(action), inputs, null, null, ways("ok", "end"), null);
    }

    private static Step notify(String text) {
        return new Notify(id("a"), "A", List.of(new Party.Requester()), "Subject", text, ways("sent", "end"), null);
    }

    private static Step update(String target, String value) {
        return new Update(id("a"), "A", null, List.of(new Assignment(target, value, null)), ways("done", "end"), null);
    }

    private static Step inviting(Invites invites, TicketRoom room) {
        return new Notify(
                id("a"), "A", List.of(new Party.Requester()), "S", "T", room, invites, ways("sent", "end"), null);
    }

    private static Step of(String ci, String... targets) {
        return new Update(
                id("a"),
                "A",
                ci,
                Arrays.stream(targets).map(t -> new Assignment(t, null, "x")).toList(),
                ways("done", "end"),
                null);
    }

    private static Step wait(String id, String to) {
        return new Wait(id(id), id, Span.parse("5 min"), null, ways("done", to), null);
    }

    private static Map<String, StepId> ways(String... pairs) {
        Map<String, StepId> ways = new java.util.LinkedHashMap<>();
        for (int i = 0; i < pairs.length; i += 2) {
            ways.put(pairs[i], id(pairs[i + 1]));
        }
        return ways;
    }

    private static StepId id(String text) {
        return new StepId(text);
    }
}
