package dastur.server.work;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.verifyNoInteractions;
import static org.mockito.Mockito.when;

import dastur.core.run.Refusal;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.store.Files;
import org.junit.jupiter.api.Test;

/** What a call leaves behind never changes what became of it. */
class CallFilesTest {
    private static final TicketId TICKET = new TicketId("I-1");
    private static final VisitId VISIT = new VisitId("I-1.1.1");

    private final Files files = mock(Files.class);
    private final CommandService commands = mock(CommandService.class);
    private final CallFiles kept = new CallFiles(files, commands);

    @Test
    void aFileThatCannotBeWrittenIsTold() {
        when(files.keep(any())).thenThrow(new IllegalStateException("the disk is full"));

        assertThat(kept.log(TICKET, VISIT, "board.log", "look", new byte[] {1})).contains("it could not be written.");
        verifyNoInteractions(commands);
    }

    @Test
    void oneThatTheTicketRefusesIsForgotten() {
        when(files.keep(any())).thenReturn("a1");
        when(commands.handleRepeatable(any(), any(), any(), any()))
                .thenReturn(new CommandService.Outcome.Refused(Refusal.invalid("file", "There are too many.")));

        assertThat(kept.picture(TICKET, VISIT, "shop.trial", "Receipt", new byte[] {1}))
                .contains("There are too many.");
        verify(files).dropUnused("a1");
    }
}
