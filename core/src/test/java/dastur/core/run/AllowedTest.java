package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.waiting.WaitCommands;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.TriggerId;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What each role may do, whatever way it is said (B3). */
class AllowedTest extends WrittenWorkflows {
    private static final PersonId ONE = new PersonId("one");
    private static final List<Role> ROLES =
            List.of(Role.REQUESTER, Role.AGENT, Role.AUDITOR, Role.PROCESS_OWNER, Role.ADMINISTRATOR);

    private void pause() {
        publish("look: ask group technicians \"Look\": \"Done\"\nend: done \"done\"\n");
    }

    private void is(Role role, boolean active) {
        world.put(new LookupKey.OfPerson(ONE), new Person(ONE, "One", "", Set.of(role), active));
    }

    private Command command(String name) {
        return switch (name) {
            case "edit" -> new Command.EditTicket(Map.of("urgency", 3L), null);
            case "note" -> new Command.AddNote("Said.", false);
            case "note to the requester" -> new Command.AddNote("Said.", true);
            case "start" -> new Command.StartRun(World.GATE, Map.of());
            case "offer" -> new Command.AnswerOffer(new TriggerId("t"), true, Map.of(), null);
            case "link" -> new Command.LinkTicket(new TicketId("I-2"), LinkKind.RELATED, false);
            case "hold" -> new Command.Intervene(run().id(), null, Intervention.HOLD, null, "wait");
            case "redact" -> new Command.Redact(1, "a card number");
            case "signal" -> new WaitCommands.SignalCame(world.open().id(), "s", Map.of());
            case "claim" -> new ClaimTask(world.open().id());
            case "tick" -> new Command.Tick();
            case "recheck" -> new Command.Recheck();
            case "machine's result" -> new CallResult(world.open().id(), 1, new CallOutcome.Failed("because"));
            default -> throw new AssertionError(name);
        };
    }

    private boolean allowed(Command command) {
        Decision decision = world.decide(Actor.of(ONE), command);
        return !(decision instanceof Decision.Refused r)
                || Stream.of("You may not", "Only the", "Nobody with")
                        .noneMatch(r.refusal().message()::startsWith);
    }

    /** Letters say who may: r(equester), a(gent), u (auditor), p(rocess owner), d (administrator); what is asked is a matter of whom it is offered to. */
    @ParameterizedTest
    @CsvSource({
        "edit, apd",
        "note, apd",
        "note to the requester, rapd",
        "start, apd",
        "offer, apd",
        "link, apd",
        "hold, pd",
        "redact, d",
        "signal, apd",
        "claim, raupd",
        "tick, ''",
        "recheck, ''",
        "machine's result, ''"
    })
    void eachRoleMayDoWhatTheTableSays(String name, String may) {
        pause();
        String found = ROLES.stream()
                .filter(role -> {
                    is(role, true);
                    return allowed(command(name));
                })
                .map(role -> String.valueOf("raupd".charAt(ROLES.indexOf(role))))
                .collect(Collectors.joining());
        assertThat(found).isEqualTo(may);
        for (Role role : ROLES) {
            is(role, false);
            assertThat(allowed(command(name))).as("an account that is shut").isFalse();
        }
    }

    @Test
    void whoIsRefusedLeavesNothingBehindAndWhatWasDueIsDoneAllTheSame() {
        pause();
        is(Role.AUDITOR, true);
        int before = world.record.size();
        Refusal refusal = world.refused(Actor.of(ONE), command("edit"));
        assertThat(refusal.message()).contains("change tickets");
        assertThat(world.record).hasSize(before);
    }

    @Test
    void theOwnerOfAWorkflowMayInterveneWithoutFurtherRights() {
        pause();
        world.put(new LookupKey.OfPerson(World.TEO), new Person(World.TEO, "Teo", "", Set.of(Role.REQUESTER), true));
        world.accepted(Actor.of(World.TEO), command("hold"));
        assertThat(run().held()).isTrue();
    }

    /** A requester asks for themselves, says what is the matter, and sets nothing else. */
    @ParameterizedTest
    @CsvSource({
        "incident, title, one, true",
        "request, 'title description service ci', one, true",
        "change, title, one, false",
        "incident, 'title impact', one, false",
        "incident, 'title group', one, false",
        "incident, title, jonas, false"
    })
    void aRequesterRaisesForThemselves(String kind, String fields, String requester, boolean may) {
        is(Role.REQUESTER, true);
        Map<String, String> values = Map.of(
                "title", "A gate", "description", "It hangs", "service", "gates", "ci", "ALD-G1", "group", "managers");
        Map<String, Object> given = Arrays.stream(fields.split(" "))
                .collect(Collectors.toMap(f -> f, f -> (Object) values.getOrDefault(f, "2")));
        given.put("requester", requester);
        Decision decision = world.decide(
                Actor.of(ONE), new Command.RaiseTicket(TicketKind.of(kind).orElseThrow(), given, null));
        assertThat(decision instanceof Decision.Accepted).as("%s", decision).isEqualTo(may);
    }
}
