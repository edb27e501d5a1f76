package dastur.demo;

import dastur.core.signal.Mapping;
import dastur.core.signal.Mapping.Row;
import dastur.core.signal.Mapping.To;
import dastur.core.signal.Matter;
import dastur.core.signal.Network;
import dastur.core.signal.Severity;
import dastur.core.signal.Sort;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.standins.Mailbox;
import java.util.List;
import java.util.Map;

/** Who tells the demo that something is the matter, and what starts by it. */
final class DemoSources {
    static final SourceKey BOARDS = new SourceKey("board-monitor");
    static final SourceKey GATES = new SourceKey("gate-log");
    static final SourceKey COPIES = new SourceKey("nightly-copies");

    private static final int A_DAY = 24 * 60;

    private DemoSources() {}

    /** Words of its own for states and levels, and boards by their addresses, so that nothing is understood by luck. */
    static Source boardMonitor() {
        return new Source(
                BOARDS,
                "Board monitor",
                true,
                Source.Proof.SIGNATURE,
                new Mapping(List.of(
                        Row.at(To.SORT, "/data/state").table(Map.of("FROZEN", "fault", "MOVING", "recovered"), null),
                        Row.at(To.SEVERITY, "/data/level")
                                .table(Map.of("0", "cleared", "1", "critical", "2", "major", "3", "minor"), "warning"),
                        Row.at(To.CI, "/data/unit").by("address"),
                        Row.text(To.WHAT, "stands still"),
                        Row.text(To.TITLE, "{{ ci.name ?? 'A board' }} stands still"),
                        Row.at(To.TEXT, "/data/note"),
                        Row.at(To.AT, "/time"),
                        Row.value("pictureAge", FieldType.WHOLE, "/data/picture_age_s"),
                        Row.value("line", FieldType.TEXT, "/data/line"))),
                Source.Otherwise.INCIDENT,
                false,
                "service-desk");
    }

    /** The gates write lines of syslog; which gate stands in their structured data. */
    static Source gateLog() {
        Source log = new Source(
                GATES,
                "Gates, by syslog",
                true,
                Source.Proof.ADDRESS,
                new Mapping(List.of(
                        Row.at(To.SORT, "/message").table(Map.of("STUCK", "fault", "WELL", "recovered"), "news"),
                        Row.at(To.SEVERITY, "/level")
                                .table(
                                        Map.of("critical", "critical", "error", "major", "notice", "cleared"),
                                        "warning"),
                        Row.at(To.CI, "/data/gate@32473/id").by("id"),
                        Row.text(To.WHAT, "stands open"),
                        Row.at(To.TITLE, "/text"),
                        Row.at(To.AT, "/time"))),
                Source.Otherwise.INCIDENT,
                false,
                "service-desk",
                List.of(new Network("127.0.0.1"), new Network("::1")),
                null,
                null);
        return log.silentAfter(A_DAY);
    }

    /** The vault of copies writes a mail a night; what it is about stands in one line for people. */
    static Source copies() {
        return new Source(
                COPIES,
                "Nightly copies, by mail",
                true,
                Source.Proof.MAIL,
                new Mapping(List.of(
                        Row.at(To.SORT, "/subject")
                                .part("^\\[(\\w+)\\]")
                                .table(Map.of("FAILED", "fault", "DONE", "recovered"), "news"),
                        Row.at(To.SEVERITY, "/subject").part("^\\[(\\w+)\\]").table(Map.of("DONE", "cleared"), "minor"),
                        Row.at(To.CI, "/subject").part("copy of (\\S+)$"),
                        Row.text(To.WHAT, "has not been copied"),
                        Row.text(
                                To.TITLE,
                                "{{ ci.name ?? 'Something' }} has {{ signal.sort == 'recovered' ? '' : 'not ' }}been copied tonight"),
                        Row.at(To.TEXT, "/text"),
                        Row.value("megabytes", FieldType.WHOLE, "/text").part("(\\d+) MB"))),
                Source.Otherwise.INCIDENT,
                false,
                "service-desk",
                List.of(),
                null,
                new Source.Post(Mailbox.MACHINES, List.of("@copies.kestrel.example")));
    }

    /** A board that stands still for a minute is read, restarted and looked at by itself. */
    static Trigger frozenBoard() {
        return new Trigger(
                new TriggerId("frozen-departure-board-signal"),
                true,
                new Trigger.SignalComes(null, BOARDS, Sort.FAULT, Severity.MINOR, new Matter.Recovery(true, 120, true)),
                List.of(),
                "ci.kind == 'board' && signal.pictureAge >= 60");
    }
}
