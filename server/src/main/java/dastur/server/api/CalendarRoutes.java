package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.time.CalendarKey;
import dastur.core.time.Span;
import dastur.core.time.WorkingCalendar;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.SetUp;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Working calendars: made and changed by people, each on the journal, and tried before they count. */
final class CalendarRoutes {
    private static final int MAX_HOLIDAYS = 1000;

    /** No trial begins further away than this; no calendar says anything about then. */
    private static final Duration FURTHEST = Duration.ofDays(3660);

    record CalendarView(WorkingCalendar calendar, boolean openNow) {}

    record UsualCalendarBody(CalendarKey calendar) {}

    /** @param calendar as it stands on the screen, stored or not @param from null for now */
    record TrialBody(
            WorkingCalendar calendar, Span span, @Nullable Instant from) {}

    /**
     * When a length of time that begins then is over.
     *
     * @param openThen whether it is open at the beginning
     * @param until null when there is no such working time within 400 days
     */
    record Trial(Instant from, boolean openThen, @Nullable Instant until) {}

    private final InstantSource clock;
    private final Organisation organisation;
    private final SetUp setUp;

    private CalendarRoutes(InstantSource clock, Organisation organisation, SetUp setUp) {
        this.clock = clock;
        this.organisation = organisation;
        this.setUp = setUp;
    }

    static Stream<Route> of(InstantSource clock, Organisation organisation, SetUp setUp) {
        CalendarRoutes r = new CalendarRoutes(clock, organisation, setUp);
        return Stream.of(
                Route.list("/api/calendars", Right.SEE, "Working calendars", CalendarView.class, r::calendars),
                Route.put(
                        "/api/calendars/{key}",
                        Right.DESIGN,
                        "Set a working calendar",
                        WorkingCalendar.class,
                        null,
                        r::set),
                Route.post(
                        "/api/calendar-trials",
                        Right.DESIGN,
                        "When a length of time is over by a calendar, which is not stored by that",
                        TrialBody.class,
                        Trial.class,
                        r::trial),
                Route.put(
                        "/api/usual-calendar",
                        Right.DESIGN,
                        "Say which working calendar counts where a service names none",
                        UsualCalendarBody.class,
                        null,
                        r::usual));
    }

    /** Refuses a calendar that there is not; none at all is fine. */
    static void known(Organisation organisation, @Nullable CalendarKey key) {
        if (key != null
                && organisation.calendars().stream().noneMatch(c -> c.key().equals(key))) {
            throw Problem.invalid("calendar", "There is no working calendar '" + key + "'.")
                    .end();
        }
    }

    private Object calendars(Request q) {
        return organisation.calendars().stream()
                .map(c -> new CalendarView(c, c.isOpenAt(clock.instant())))
                .toList();
    }

    private Object usual(Request q) {
        CalendarKey key = Request.needed(q.body(UsualCalendarBody.class).calendar(), "calendar");
        known(organisation, key);
        setUp.usualCalendar(Answers.by(q, clock), key);
        return null;
    }

    private Object set(Request q) {
        WorkingCalendar calendar = checked(q.body(WorkingCalendar.class));
        if (!calendar.key().equals(q.path("key", CalendarKey::new))) {
            throw Problem.invalid("key", "A calendar has the key it is stored under.")
                    .end();
        }
        SetUpRoutes.name(calendar.name());
        setUp.calendar(Answers.by(q, clock), calendar);
        return null;
    }

    private Object trial(Request q) {
        TrialBody body = q.body(TrialBody.class);
        WorkingCalendar calendar = checked(Request.needed(body.calendar(), "calendar"));
        Span span = Request.needed(body.span(), "span");
        Instant now = clock.instant();
        Instant from = body.from() == null ? now : body.from();
        if (from.isBefore(now.minus(FURTHEST)) || from.isAfter(now.plus(FURTHEST))) {
            throw Problem.invalid("from", "A trial begins within ten years of now.")
                    .end();
        }
        return new Trial(
                from, calendar.isOpenAt(from), calendar.after(from, span).orElse(null));
    }

    private static WorkingCalendar checked(WorkingCalendar calendar) {
        calendar.hours().values().forEach(hours -> {
            for (int i = 1; i < hours.size(); i++) {
                WorkingCalendar.Hours before = hours.get(i - 1);
                boolean apart = before.to().isAfter(before.from())
                        && !hours.get(i).from().isBefore(before.to());
                if (!apart) {
                    throw Problem.invalid("hours", "The hours of a day stand in order and do not overlap.")
                            .end();
                }
            }
        });
        if (calendar.holidays().size() > MAX_HOLIDAYS) {
            throw Problem.invalid("holidays", "A calendar has at most 1,000 holidays.")
                    .end();
        }
        return calendar;
    }
}
