package dastur.demo;

import dastur.core.feed.Subscription;
import dastur.core.feed.SubscriptionKey;
import dastur.core.feed.Wanted;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.signal.Severity;
import dastur.core.signal.SourceKey;
import dastur.core.start.Watch;
import dastur.core.ticket.TicketKind;
import dastur.core.time.CalendarKey;
import dastur.core.time.Rhythm;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** What starts by itself in the demo: at its time, or when a program calls. */
final class DemoStarts {
    /** By this one the booking site's monitoring starts its workflow. */
    static final TriggerId SLOW = new TriggerId("booking-site-slow-hook");

    static final ActionKey HEARD = new ActionKey("kiosk.heard");
    static final ActionKey PAPER = new ActionKey("kiosk.paper");

    /** What the desk may ask for on a ticket. */
    static final List<ActionKey> READ_BY_HAND =
            List.of(HEARD, new ActionKey("board.look"), new ActionKey("fares.read"), DemoParts.LOOK, DemoLedger.SALES);

    /**
     * Ines keeps what makes machines and what lets kiosks in. She is to look again at the first in a week, and the change board alone
     * may use it.
     */
    static List<TermsOfUse> terms(Instant now) {
        PersonId ines = new PersonId("ines");
        Instant elevenMonthsAgo = now.atZone(ZONE).minusMonths(12).plusDays(7).toInstant();
        return List.of(
                new TermsOfUse(
                        new ActionKey("machine.launch"),
                        ines,
                        List.of(new GroupId("change-board")),
                        null,
                        null,
                        2,
                        12,
                        elevenMonthsAgo),
                new TermsOfUse(new ActionKey("kiosk.enrol"), ines, null, null, null, 3, null, null));
    }

    static final SubscriptionKey OFFICE = new SubscriptionKey("harbour-office");

    private static final ZoneId ZONE = ZoneId.of("Europe/Oslo");

    private DemoStarts() {}

    private static Trigger at(String id, Trigger.TimeComes when) {
        return new Trigger(new TriggerId(id), true, when, List.of(), null);
    }

    private static Rhythm rhythm(String rule, Instant now, LocalTime time, boolean workingDays) {
        LocalDate first = LocalDate.ofInstant(now, ZONE).minusDays(30);
        return new Rhythm(rule, first.atTime(time), ZONE, null, workingDays ? new CalendarKey("office") : null);
    }

    /** After the tills have closed their day, long before the first ferry. */
    static Trigger faresCompared(Instant now) {
        return at(
                "fares-on-kiosks-daily",
                new Trigger.TimeComes(
                        TicketKind.INCIDENT,
                        rhythm("FREQ=DAILY", now, LocalTime.of(4, 15), false),
                        "Fares of the kiosks, compared",
                        Map.of(),
                        Trigger.Missed.MADE_GOOD,
                        Trigger.Overlap.SKIPPED));
    }

    /** On working days only: somebody may have to walk to a gate. */
    static Trigger certificatesLookedAt(Instant now) {
        return at(
                "certificates-watched-daily",
                new Trigger.TimeComes(
                        TicketKind.ROUTINE,
                        rhythm("FREQ=WEEKLY;BYDAY=MO,WE,FR", now, LocalTime.of(7, 30), true),
                        "Certificates of the gates at Gannet Quay",
                        Map.of("site", "'GNQ'"),
                        Trigger.Missed.MADE_GOOD,
                        Trigger.Overlap.WAITS));
    }

    static Trigger bookingSiteSlow() {
        return new Trigger(
                SLOW,
                true,
                new Trigger.Called(TicketKind.INCIDENT, "Booking site answers slowly", true),
                List.of(),
                null);
    }

    /** Most of the time there is nothing to do, and its history says so. */
    static Watch kiosksHeard() {
        return new Watch(
                new SourceKey("kiosks-heard"),
                "A kiosk has not been heard for 20 minutes",
                true,
                HEARD,
                Map.of(),
                Span.parse("3 min"),
                "read.minutes > 20",
                null,
                "read.minutes < 10",
                Severity.MINOR,
                null,
                Span.parse("15 min"));
    }

    /** Each kiosk by itself: a list that is read is as many faults as it has rows of which the rule holds. */
    static Watch kioskPaper() {
        return new Watch(
                new SourceKey("kiosk-paper"),
                "Nearly out of paper",
                true,
                PAPER,
                Map.of(),
                Span.parse("5 min"),
                "row.metres < 20",
                null,
                "row.metres >= 40",
                Severity.MINOR,
                null,
                Span.parse("30 min"),
                new Watch.Each("kiosks", "kiosk", "kiosk"));
    }

    /** The harbour office is told of incidents and changes. @param standins where it listens */
    static Subscription harbourOffice(String standins) {
        return new Subscription(
                OFFICE,
                "Harbour office",
                true,
                standins + "/harbour-office",
                new Wanted(Set.of("ticketRaised", "runEnded"), Set.of(TicketKind.INCIDENT, TicketKind.CHANGE), null),
                List.of("title", "state", "priority", "ci"),
                new PersonId("ada"));
    }
}
