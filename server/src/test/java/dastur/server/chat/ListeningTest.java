package dastur.server.chat;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.contains;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.timeout;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dastur.connectors.MatrixConnector;
import dastur.connectors.MatrixConnector.News;
import dastur.connectors.MatrixConnector.Said;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.run.Command;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.work.ByHand;
import dastur.server.work.CommandService;
import dastur.store.Chats;
import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** W11: one message in chat that cannot be taken stops nobody, and its writer is told. */
class ListeningTest {
    private static final PersonId TEO = new PersonId("teo");
    private static final int WAIT = 20_000;

    private final MatrixConnector matrix = mock(MatrixConnector.class);
    private final CommandService commands = mock(CommandService.class);
    private final CountDownLatch over = new CountDownLatch(1);
    private Database database;
    private Chats chats;
    private Chat chat;

    @BeforeEach
    void open() throws Exception {
        database = Database.inMemory("listening-" + System.nanoTime());
        Person teo = new Person(TEO, "Teo Marchetti", "", Set.of(Role.AGENT), true);
        new Organisation(database).putPerson(teo, null);
        chats = new Chats(database);
        chats.putReach(
                TEO,
                new Chats.Reach(
                        "@teo:kestrel.example", Chats.Channel.CHAT, Chats.Channel.MAIL, null, null, ZoneId.of("UTC")));
        chats.keepRoom(TEO, "!teo");
        when(matrix.base()).thenReturn(Optional.of("http://chat"));
        when(matrix.say(any(), any(), any())).thenReturn("$said");
        when(matrix.news(any(), any()))
                .thenReturn(new News("s1", List.of(said("$bad", "ticket: breaks"), said("$good", "ticket: works"))))
                .thenAnswer(i -> {
                    over.await();
                    return new News("s1", List.of());
                });
        when(commands.raise(eq(TicketKind.INCIDENT), contains("bad"), any(), any()))
                .thenThrow(new IllegalStateException("a fault of our own"));
        when(commands.raise(eq(TicketKind.INCIDENT), contains("good"), any(), any()))
                .thenReturn(new CommandService.Outcome.Done("I-7", 1));
        chat = new Chat(new Chat.Uses(
                matrix,
                chats,
                commands,
                new Tickets(database),
                id -> Optional.of(teo),
                new ByHand(key -> Optional.empty(), new Workflows(database)),
                () -> "http://desk.example",
                () -> true));
    }

    @AfterEach
    void close() {
        over.countDown();
        chat.close();
        database.close();
    }

    private static Said said(String event, String text) {
        return new Said("!teo", "@teo:kestrel.example", event, text, null, true, false);
    }

    @Test
    void aMessageThatThrowsIsLeftAfterAFewTriesAndTheNextOneIsTaken() throws Exception {
        chat.start();
        verify(commands, timeout(WAIT)).raise(any(), contains("good"), any(), any(Command.RaiseTicket.class));
        verify(matrix, timeout(WAIT)).say(eq("!teo"), eq("answer.$bad"), contains("nothing was decided"));
        verify(matrix, timeout(WAIT)).say(eq("!teo"), eq("answer.$good"), contains(new TicketId("I-7").value()));
        // It goes on from there, and never reads the same again.
        verify(matrix, timeout(WAIT)).news(eq("s1"), any());
        assertThat(chats.since("http://chat")).contains("s1");
    }
}
