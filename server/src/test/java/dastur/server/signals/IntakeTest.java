package dastur.server.signals;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.anyList;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dastur.core.signal.SourceKey;
import dastur.store.Busy;
import dastur.store.Incoming;
import dastur.store.Incoming.Arrival;
import dastur.store.Incoming.Fate;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What is taken is bounded (I1): beyond, senders are asked to keep it, and nothing that was taken is lost. */
class IntakeTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final int A_MEGABYTE = 1 << 20;

    private final Incoming incoming = mock(Incoming.class);
    private final CountDownLatch disk = new CountDownLatch(1);
    private final Intake intake = new Intake(incoming, count -> {});

    @BeforeEach
    void itIsKept() {
        when(incoming.keep(anyList())).thenAnswer(call -> call.<List<Arrival>>getArgument(0).stream()
                .map(a -> (Fate) new Fate.Kept(a.id()))
                .toList());
    }

    @AfterEach
    void end() {
        disk.countDown();
        intake.close();
    }

    private List<Fate> keep(String raw) {
        return intake.keep(List.of(intake.arrival(new SourceKey("gates"), NOW, null, "{}", raw)));
    }

    @Test
    void nothingMoreIsTakenWhileTooManyWaitToBeRoutedAndThenAgain() {
        intake.unrouted(Intake.UNROUTED - 1);
        assertThat(keep("{}")).hasSize(1);
        intake.unrouted(Intake.UNROUTED);
        assertThatThrownBy(() -> keep("{}")).isInstanceOf(Busy.class);
        intake.unrouted(Intake.UNROUTED - 1);
        assertThat(keep("{}")).hasSize(1);
    }

    @Test
    void noMoreBytesWaitThanThereIsRoomFor() {
        when(incoming.keep(anyList())).thenAnswer(call -> {
            disk.await();
            return call.<List<Arrival>>getArgument(0).stream()
                    .map(a -> (Fate) new Fate.Kept(a.id()))
                    .toList();
        });
        String large = "x".repeat(A_MEGABYTE);
        List<CompletableFuture<List<Fate>>> waiting = java.util.stream.IntStream.range(0, 64)
                .mapToObj(i -> CompletableFuture.supplyAsync(() -> keep(large), Thread::startVirtualThread))
                .toList();
        // Those that found room wait for the disk; one more finds none, and it takes no place of others.
        while (intake.bytesFree() > 0) {
            Thread.onSpinWait();
        }
        assertThatThrownBy(() -> keep("{}")).isInstanceOf(Busy.class);
        disk.countDown();
        assertThat(waiting).allSatisfy(w -> assertThat(w.join()).hasSize(1));
        assertThat(intake.bytesFree()).isEqualTo(64 * A_MEGABYTE);
        assertThat(keep(large)).hasSize(1);
    }
}
