package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.record.Seal;
import dastur.core.run.Event;
import dastur.core.step.approval.ApprovalEvents.ApprovalClosed;
import dastur.core.step.approval.ApprovalEvents.VoteCast;
import dastur.core.ticket.TicketId;
import dastur.server.chat.ChatAnswer;
import dastur.standins.ChatServer;
import dastur.standins.Faults;
import dastur.standins.Mailbox;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Decisions in chat, over the Matrix client-server API against the stand-in (N41); who wants to be reached how (N60). */
class ChatTest extends OnDemo {
    private static final String TEO = "@teo:kestrel.example";

    private static ChatServer chat;

    @BeforeAll
    static void start() {
        chat = api.app().standins().chat();
    }

    private static boolean heard(String words) {
        return chat.with(TEO).stream().anyMatch(e -> e.text().contains(words));
    }

    /** A gate whose lane is to be closed: Teo is asked in chat, Priya by mail. @return the ticket and the event in chat */
    private static String[] asked() {
        return asked("ALD-G4");
    }

    private static String[] asked(String gate) {
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Gate stands open","ci":"%s","requester":"mira",
                        "impact":2,"urgency":2,"group":"pier-technicians"}}""".formatted(gate))
                .body()
                .get("ticket")
                .asText();
        String task = ticket("runa", number).get("asks").get(0).get("visit").asText();
        api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\"}");
        until(() -> heard("Close the lane? (" + number + ")"));
        String event = chat.with(TEO).stream()
                .filter(e -> e.text().contains("Close the lane? (" + number + ")"))
                .findFirst()
                .orElseThrow()
                .id();
        return new String[] {number, event};
    }

    private static List<Event> events(String number) {
        return api.app().app().work().records().of(new TicketId(number)).stream()
                .map(Seal::open)
                .map(r -> r.event())
                .toList();
    }

    private static boolean closed(String number, String exit) {
        return events(number).stream()
                .anyMatch(e -> e instanceof ApprovalClosed c && c.exit().equals(exit));
    }

    @Test
    void aReplyWithItsNumberDecidesLikeAPressInTheApplication() {
        String[] asked = asked();
        assertThat(chat.with(TEO).stream()
                        .filter(e -> e.id().equals(asked[1]))
                        .findFirst()
                        .orElseThrow()
                        .text())
                .contains("1  Approve and close the lane")
                .contains("2  Decline");
        chat.say(TEO, "1, the arm is bent", asked[1]);
        until(() -> closed(asked[0], "approved"));
        until(() -> heard("Noted: yes to “Close the lane?” on " + asked[0]));
        assertThat(events(asked[0]))
                .anyMatch(e -> e instanceof VoteCast v
                        && v.by().value().equals("teo")
                        && "the arm is bent".equals(v.comment()));
    }

    /** Rooms may be closed on the server; the next decision opens another, instead of never reaching anybody again. */
    @Test
    void aRoomThatIsGoneIsOpenedAnew() {
        asked();
        chat.closeRooms();
        String[] asked = asked();
        chat.say(TEO, "1", asked[1]);
        until(() -> closed(asked[0], "approved"));
    }

    @Test
    void whatIsNotUnderstoodIsAskedAgainAndNeverTakenAsANo() {
        String[] asked = asked();
        chat.say(TEO, "not sure, call me", asked[1]);
        until(() -> heard("I did not understand that"));
        assertThat(events(asked[0])).noneMatch(VoteCast.class::isInstance);
        chat.say(TEO, "2", asked[1]);
        until(() -> heard("asks for a comment"));
        assertThat(events(asked[0])).as("a no needs a reason here").noneMatch(VoteCast.class::isInstance);
        chat.say(TEO, "2: gate 4 is the only one", asked[1]);
        until(() -> closed(asked[0], "declined"));
    }

    @Test
    void whatIsDecidedElsewhereIsTakenBackInChatAndALateAnswerIsTold() {
        String[] asked = asked();
        JsonNode ask = ticket("priya", asked[0]).get("asks").get(0);
        api.call(
                "priya",
                "POST",
                "/api/approvals/" + ask.get("visit").asText() + "/vote",
                Json.write(Map.of(
                        "round", ask.get("approval").get("round").asInt(),
                        "digest", ask.get("approval").get("digest").asText(),
                        "approve", true)));
        until(() -> heard("Settled: approved by Priya Lund"));
        chat.say(TEO, "1", asked[1]);
        until(() -> heard("Nothing waits for your answer to “Close the lane?” on " + asked[0]));
        // The question itself is struck out where it stands.
        until(() -> chat.with(TEO).stream()
                .anyMatch(e -> e.id().equals(asked[1])
                        && e.text().contains("~~1  Approve and close the lane")
                        && e.text().contains("Settled: approved by Priya Lund")));
    }

    /** U3: a bare number is never taken for another question than the one that stands last; which one is asked. */
    @Test
    void aBareNumberNeverDecidesAnotherMatter() {
        String[] older = asked("ALD-G2");
        String[] newer = asked("ALD-G3");
        chat.say(TEO, "1", null);
        until(() -> heard("Which do you mean? Nothing was decided."));
        assertThat(heard(older[0] + " 1")).isTrue();
        assertThat(heard(newer[0] + " 1")).isTrue();

        JsonNode ask = ticket("priya", newer[0]).get("asks").get(0);
        api.call(
                "priya",
                "POST",
                "/api/approvals/" + ask.get("visit").asText() + "/vote",
                Json.write(Map.of(
                        "round", ask.get("approval").get("round").asInt(),
                        "digest", ask.get("approval").get("digest").asText(),
                        "approve", true)));
        until(() -> heard("“Close the lane?” on " + newer[0] + ": Settled: approved by Priya Lund"));
        // Teo has the newer one in mind; the older is the only one that is open, and must not get his answer.
        chat.say(TEO, "1", null);
        until(() -> heard("Nothing waits for your answer to “Close the lane?” on " + newer[0]));
        assertThat(events(older[0])).noneMatch(VoteCast.class::isInstance);

        chat.say(TEO, older[0] + " 1", null);
        until(() -> closed(older[0], "approved"));
        until(() -> heard("Noted: yes to “Close the lane?” on " + older[0]));
    }

    @Test
    void aQuestionInChatStopsTheClocks() {
        String[] asked = asked();
        chat.say(TEO, "? Is the other gate open?", asked[1]);
        until(() -> ticket("mira", asked[0]).get("questions").size() == 1);
        assertThat(ticket("mira", asked[0]).get("questions").get(0).get("text").asText())
                .isEqualTo("Is the other gate open?");
    }

    @Test
    void somebodyElseCannotAnswerInTheRoomOfAnother() {
        String[] asked = asked();
        chat.say("@priya:kestrel.example", "1", asked[1]);
        chat.say(TEO, "?", asked[1]);
        until(() -> heard("I did not understand that"));
        assertThat(events(asked[0])).noneMatch(VoteCast.class::isInstance);
    }

    @Test
    void mailStandsInWhenTheChatIsDown() {
        Faults faults = api.app().standins().faults();
        faults.set("chat", Faults.Fault.DOWN);
        try {
            String number = api.call("ada", "POST", "/api/tickets", """
                            {"kind":"incident","fields":{"title":"Gate stands open","ci":"ALD-G3","requester":"mira",
                            "impact":2,"urgency":2,"group":"pier-technicians"}}""")
                    .body()
                    .get("ticket")
                    .asText();
            String task = ticket("runa", number).get("asks").get(0).get("visit").asText();
            api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\"}");
            Mailbox mailbox = api.app().standins().mailbox();
            until(() -> mailbox.mails().stream()
                    .anyMatch(m -> m.to().startsWith("teo@") && m.subject().contains(number)));
        } finally {
            faults.set("chat", Faults.Fault.NONE);
        }
    }

    /** N61, N63: a room for the ticket, links both ways, and what is said there on its record. */
    @Test
    void aTicketsRoomOpensAndWhatIsMarkedThereComesOntoTheRecord() {
        DesignedWorkflow.publish(api, """
                workflow room-test "Room test" for incident
                  owner ines
                open: tell person teo "Come here" as "Open the room"
                  say "We meet here about {{ ticket.title }}."
                  in the room "{{ ticket.number }} {{ ticket.title }}"
                wait: ask group pier-technicians "Look": "Done"
                done: done "done"
                """);
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Boards are dark","requester":"mira"}}""")
                .body()
                .get("ticket")
                .asText();
        api.call("ada", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"room-test\"}");
        until(() -> !rooms(number).isEmpty()
                && chat.in(rooms(number).getFirst().id()).size() == 2);
        var room = rooms(number).getFirst();
        assertThat(room.name()).isEqualTo(number + " Boards are dark");
        assertThat(chat.in(room.id()).getFirst().text()).contains("/tickets/" + number);
        assertThat(chat.in(room.id()).getLast().text()).contains("We meet here about Boards are dark.");
        until(() -> ticket("ada", number).has("room"));
        chat.sayIn(room.id(), TEO, "Coffee first", null);
        chat.sayIn(room.id(), TEO, "! The gateway is down\nIts lamp is red.", null);
        until(() -> talked(number).size() > 0);
        assertThat(talked(number).toString()).contains("The gateway is down").doesNotContain("Coffee");
        assertThat(talked(number).get(0).get("by").asText()).isEqualTo("teo");

        String said = chat.in(room.id()).getLast().id();
        chat.mark(room.id(), TEO, said);
        until(() -> answered(room.id(), " was raised: http"));
        String raised = chat.in(room.id()).getLast().text().split(" ")[0];
        JsonNode made = ticket("ada", raised);
        assertThat(made.get("fields").get("title").asText()).isEqualTo("The gateway is down");
        assertThat(made.get("fields").get("description").asText()).contains("Its lamp is red.");
        assertThat(made.get("fields").get("requester").asText()).isEqualTo("teo");
        until(() -> ticket("ada", number).toString().contains(raised));

        chat.sayIn(room.id(), TEO, "note " + raised, said);
        until(() -> answered(room.id(), "Noted on " + raised));
        assertThat(events(raised))
                .anyMatch(e -> e instanceof Event.NoteAdded n && n.text().contains("Its lamp is red."));
    }

    private static boolean answered(String room, String words) {
        return chat.in(room).getLast().text().contains(words);
    }

    /** N63: words of one's own become a ticket too; what is no ticket or says nothing is told, and nothing happens. */
    @Test
    void whatIsSaidToDasturBecomesATicketOrJoinsOne() {
        asked();
        chat.say(TEO, "Ticket: Wind gauge at North Slip reads zero\nSince noon.", null);
        until(() -> heard("was raised: http"));
        String said = chat.with(TEO).getLast().text();
        assertThat(ticket("ada", said.split(" ")[0]).get("fields").get("title").asText())
                .isEqualTo("Wind gauge at North Slip reads zero");
        chat.say(TEO, "note I-99999: it turns again", null);
        until(() -> heard("There is no ticket I-99999 that you may see."));
        chat.say(TEO, "note " + said.split(" ")[0], null);
        until(() -> heard("What is to be noted?"));
        chat.say(TEO, "ticket", null);
        until(() -> heard("What is the matter?"));
    }

    /** I13: only a whole name starts; what is near is asked back, and talk in a ticket's room stays talk. */
    @Test
    void aWorkflowIsStartedByItsNameAndByNothingLess() {
        DesignedWorkflow.publish(api, """
                workflow wash-gates "Wash the gates" for incident
                  owner ines
                room: tell person teo "Come here" as "Open the room"
                  say "We meet here."
                  in the room "{{ ticket.number }}"
                wash: ask group pier-technicians "Wash them": "Done"
                done: done "done"
                """);
        DesignedWorkflow.publish(api, """
                workflow count-gates "Count the gates" for incident
                  owner ines
                  asks how: text "How" required
                count: ask group pier-technicians "Count them": "Done"
                done: done "done"
                """);
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Gates are dirty","requester":"mira"}}""")
                .body()
                .get("ticket")
                .asText();
        asked();
        chat.say(TEO, "start wash the gates", null);
        until(() -> heard("On which ticket?"));
        chat.say(TEO, "start I-99999 wash the gates", null);
        until(() -> heard("There is no ticket I-99999 that you may see."));
        chat.say(TEO, "start " + number + " gates", null);
        until(() ->
                heard("Do you mean “start " + number + " Count the gates”; “start " + number + " Wash the gates”?"));
        chat.say(TEO, "start " + number + " paint everything", null);
        until(() -> heard("Nothing was started. It can be: "));
        chat.say(TEO, "start " + number + ": count-gates", null);
        until(() -> heard("“Count the gates” asks for How. Start it on the ticket: http"));
        assertThat(ticket("ada", number).get("runs")).isEmpty();

        chat.say(TEO, "Start " + number + " wash the gates", null);
        until(() -> heard("Started “Wash the gates” on " + number + ": Open the room, then Wash them."));
        assertThat(ticket("ada", number).get("runs")).hasSize(1);
        assertThat(events(number).stream().filter(Event.RunStarted.class::isInstance))
                .hasSize(1);

        until(() -> !rooms(number).isEmpty());
        String room = rooms(number).getFirst().id();
        chat.sayIn(room, TEO, "start with the left one", null);
        chat.sayIn(room, TEO, "start wash-gates", null);
        until(() -> chat.in(room).stream().anyMatch(e -> e.text().contains("Started “Wash the gates” on " + number)));
        assertThat(chat.in(room).stream().map(ChatServer.Event::text))
                .noneMatch(text -> text.contains("Nothing was started"));
    }

    private static JsonNode talked(String number) {
        var said = dastur.core.json.Json.mapper().createArrayNode();
        api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .body()
                .get("entries")
                .forEach(e -> {
                    if (e.get("kind").asText().equals("roomTalked")) {
                        e.get("content").get("said").forEach(said::add);
                    }
                });
        return said;
    }

    private static java.util.List<dastur.standins.ChatServer.Room> rooms(String number) {
        return chat.roomsOf(TEO).stream()
                .filter(r -> r.name().startsWith(number))
                .toList();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', nullValues = "null", textBlock = """
            1                        | Yes | null
            1, gates 3 and 4 only    | Yes | gates 3 and 4 only
            Yes                      | Yes | null
            yes – but only today     | Yes | but only today
            👍                       | Yes | null
            2                        | No  | null
            2: too early             | No  | too early
            No. Wait for Sem         | No  | Wait for Sem
            ? is the spare open?     | Question | is the spare open?
            12                       | null | null
            1st of all, no           | null | null
            nothing                  | null | null
            yesterday                | null | null
            okra                     | null | null
            ''                       | null | null
            """)
    void answersAreReadByAPlainGrammar(String text, String kind, String rest) {
        var read = ChatAnswer.read(text);
        if (kind == null) {
            assertThat(read).isEmpty();
            return;
        }
        ChatAnswer expected =
                switch (kind) {
                    case "Yes" -> new ChatAnswer.Yes(rest);
                    case "No" -> new ChatAnswer.No(rest);
                    default -> new ChatAnswer.Question(rest);
                };
        assertThat(read).contains(expected);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            {"urgent":"chat","other":"mail","zone":"Europe/Oslo"} | chat
            {"chat":"teo","urgent":"chat","other":"mail","zone":"Europe/Oslo"} | chat
            {"chat":"@teo:kestrel.example","urgent":"chat","other":"mail","zone":"Europe/Oslo"} | chat
            {"urgent":"mail","other":"mail","quietFrom":"22:00","zone":"Europe/Oslo"} | quietUntil
            {"urgent":"mail","other":"mail","zone":"Atlantis/Nowhere"} | zone
            """)
    void howIAmReachedIsChecked(String body, String where) {
        var answer = api.call("priya", "PUT", "/api/me/reach", body);
        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body().get("where").asText()).isEqualTo(where);
    }
}
