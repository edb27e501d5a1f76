package dastur.server.work;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.store.Chats.Channel;
import dastur.store.Chats.Reach;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.Optional;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Quiet hours in a person's own zone, over midnight and over a change of the clock. */
class QuietHoursTest {
    @ParameterizedTest
    @CsvSource({
        "22:00, 07:00, 2026-11-23T20:59:59Z, ",
        "22:00, 07:00, 2026-11-23T21:00:00Z, 2026-11-24T06:00:00Z",
        "22:00, 07:00, 2026-11-24T03:00:00Z, 2026-11-24T06:00:00Z",
        "22:00, 07:00, 2026-11-24T06:00:00Z, ",
        "12:00, 13:00, 2026-11-24T11:30:00Z, 2026-11-24T12:00:00Z",
        "12:00, 13:00, 2026-11-24T12:00:00Z, ",
        "22:00, 07:00, 2026-10-24T21:00:00Z, 2026-10-25T06:00:00Z",
        "09:00, 09:00, 2026-11-24T08:30:00Z, "
    })
    void onlyInThemIsAMessagePutOff(LocalTime from, LocalTime until, Instant now, Instant end) {
        Reach reach = new Reach(null, Channel.MAIL, Channel.MAIL, from, until, ZoneId.of("Europe/Oslo"));
        assertThat(Messages.quietUntil(reach, now)).isEqualTo(Optional.ofNullable(end));
    }

    @ParameterizedTest
    @CsvSource({
        "08:00, 2026-11-24T06:59:59Z, 2026-11-24T07:00:00Z",
        "08:00, 2026-11-24T07:00:00Z, 2026-11-24T07:00:00Z",
        "08:00, 2026-11-24T07:00:01Z, 2026-11-25T07:00:00Z",
        "08:00, 2026-10-24T12:00:00Z, 2026-10-25T07:00:00Z",
        "08:00, 2026-03-28T12:00:00Z, 2026-03-29T06:00:00Z"
    })
    void aDigestComesOnceADayAtTheLocalTime(LocalTime at, Instant from, Instant next) {
        Reach reach = new Reach(null, Channel.MAIL, Channel.MAIL, null, null, ZoneId.of("Europe/Oslo"), at);
        assertThat(Messages.nextDigest(reach, from)).contains(next);
        assertThat(Messages.nextDigest(Reach.MAIL, from)).isEmpty();
    }
}
