package dastur.server.work;

import dastur.core.run.Engine;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.workflow.Rung;
import dastur.store.Outbox.Taken;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Comparator;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What stands beneath every message: until when it is wanted and what happens else, in the time of whoever gets it, and
 * where to open it. The link signs nobody in: it opens the right place after the sign-in.
 */
final class MessageFoot {
    private final Workers.Uses means;

    MessageFoot(Workers.Uses means) {
        this.means = means;
    }

    String of(Taken taken, ZoneId zone) {
        StringBuilder foot = new StringBuilder();
        visit(taken).ifPresent(visit -> foot.append(time(visit, zone)));
        return foot.append("\nOpen it: ")
                .append(means.address().get())
                .append("/tickets/")
                .append(taken.ticket())
                .append('\n')
                .toString();
    }

    private Optional<Visit> visit(Taken taken) {
        return Optional.ofNullable(taken.visit())
                .flatMap(v -> means.tickets().find(taken.ticket()).flatMap(c -> c.visit(v)));
    }

    private String time(Visit visit, ZoneId zone) {
        StringBuilder text = new StringBuilder();
        Instant due = due(visit.waiting());
        if (due != null) {
            text.append("\nUntil ").append(Spoken.when(due, zone)).append(".\n");
        }
        Engine.alarms(visit, means.commands().upSince()).stream()
                .filter(a -> words(a) != null)
                .min(Comparator.comparing(Visit.Alarm::due))
                .ifPresent(a -> text.append("If nobody acts, ")
                        .append(Spoken.when(a.due(), zone))
                        .append(": ")
                        .append(words(a))
                        .append(".\n"));
        return text.toString();
    }

    private static @Nullable Instant due(Waiting waiting) {
        return waiting.asks().map(Waiting.Asked::due).orElse(null);
    }

    private static @Nullable String words(Visit.Alarm alarm) {
        return switch (alarm.kind()) {
            case LAPSE -> "it lapses";
            case OVERDUE -> "it goes on as overdue";
            case RUNG ->
                switch (alarm.deed()) {
                    case Rung.Remind r -> "those who are asked are reminded";
                    case Rung.Tell t -> "others are told";
                    case Rung.Add a -> "others are asked as well";
                    case Rung.HandOver h -> "it is handed on";
                    case Rung.RaisePriority r -> "the priority is raised";
                    case Rung.Decide e -> "it is left by “" + e.exit() + "”";
                    case null -> null;
                };
            default -> null;
        };
    }
}
