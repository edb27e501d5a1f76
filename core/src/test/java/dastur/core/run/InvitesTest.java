package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import java.time.Instant;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Messages that calendars understand (M9). */
class InvitesTest extends WrittenWorkflows {
    private static final String BEGINS = "time(\"2026-03-03T21:30:00Z\")";

    @Test
    void peopleAreInvitedToldAnewAndItIsCalledOffUnderOneName() {
        publish("""
                invite: tell group technicians "Be there" as "Invite"
                  say "At {{ ci.name }}."
                  invites from %1$s until %1$s + hours(2) at "{{ ci.site }}"
                look: ask group technicians "Goes it on?": "Later", "No"
                  "Later" -> invite
                  "No" -> off
                off: tell group technicians "Not tonight" as "Call it off"
                  say "It is called off."
                  calls off invite
                done: done "done"
                """.formatted(BEGINS));
        Meeting first = meeting();
        assertThat(Json.read(Json.write(first), Meeting.class))
                .as("kept as JSON")
                .isEqualTo(first);
        assertThat(first.from()).isEqualTo(Instant.parse("2026-03-03T21:30:00Z"));
        assertThat(first.until()).isEqualTo(Instant.parse("2026-03-03T23:30:00Z"));
        assertThat(first.place()).isEqualTo("ALD");

        done(open("look").getFirst(), "Later");
        Meeting anew = meeting();
        assertThat(anew.key()).isEqualTo(first.key());
        assertThat(anew.sequence()).isGreaterThan(first.sequence());

        done(open("look").getFirst(), "No");
        Meeting off = meeting();
        assertThat(off.isOff()).isTrue();
        assertThat(off.key()).isEqualTo(first.key());
        assertThat(off.sequence()).isGreaterThan(anew.sequence());
    }

    private Meeting meeting() {
        return last(Event.MessageQueued.class).orElseThrow().meeting();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            ticket.plannedStart | ticket.plannedStart + hours(1) | gives no time to invite
            now                 | ticket.plannedEnd              | gives no time to invite
            now + hours(2)      | now + hours(1)                 | ends before it begins
            now                 | now                            | ends before it begins
            """)
    void whatHasNoTimeStallsAndSaysWhy(String from, String until, String why) {
        publish("""
                invite: tell group technicians "Be there" as "Invite"
                  say "x"
                  invites from %s until %s
                done: done "done"
                """.formatted(from, until));
        Visit stalled = open("invite").getFirst();
        assertThat(stalled.stall().code()).isEqualTo("no time");
        assertThat(stalled.stall().why()).contains(why);
        assertThat(all(Event.MessageQueued.class)).isEmpty();
    }
}
