package dastur.server.api;

import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Run;
import dastur.core.run.RunId;
import dastur.core.step.calling.CallingEvents.CallUnsure;
import dastur.server.api.Views.RunView;
import dastur.server.api.Views.VisitView;
import dastur.store.Tickets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** A ticket's runs with the steps they have come to, from its record. */
final class RunViews {
    private RunViews() {}

    static List<RunView> of(Case c, List<Tickets.RunRow> rows, List<Recorded> record) {
        Map<String, Map<String, VisitView>> visits = visits(record);
        return rows.stream()
                .map(r -> new RunView(
                        r.id(),
                        r.workflow(),
                        r.version(),
                        r.name(),
                        r.status(),
                        r.trigger(),
                        r.startedAt(),
                        r.endedAt(),
                        r.result(),
                        List.copyOf(visits.getOrDefault(r.id(), Map.of()).values()),
                        Optional.ofNullable(c.open().get(new RunId(r.id())))
                                .map(Run::offForNow)
                                .orElse(List.of())))
                .toList();
    }

    /** As they stood once a record had come so far: what began later is not there, what ended later goes on. */
    static List<RunView> then(Case c, List<Tickets.RunRow> rows, List<Recorded> record) {
        Map<String, Map<String, VisitView>> visits = visits(record);
        return rows.stream()
                .filter(r -> c.began().containsKey(new RunId(r.id())))
                .map(r -> {
                    Run open = c.open().get(new RunId(r.id()));
                    return new RunView(
                            r.id(),
                            r.workflow(),
                            open == null ? r.version() : open.version(),
                            r.name(),
                            open == null ? r.status() : open.held() ? "held" : open.stalled() ? "stalled" : "under way",
                            r.trigger(),
                            r.startedAt(),
                            open == null ? r.endedAt() : null,
                            open == null ? r.result() : null,
                            List.copyOf(visits.getOrDefault(r.id(), Map.of()).values()),
                            open == null ? List.of() : open.offForNow());
                })
                .toList();
    }

    private static Map<String, Map<String, VisitView>> visits(List<Recorded> record) {
        Map<String, Map<String, VisitView>> runs = new LinkedHashMap<>();
        for (Recorded r : record) {
            if (r.run() == null || r.visit() == null || r.step() == null) {
                continue;
            }
            Map<String, VisitView> visits = runs.computeIfAbsent(r.run().value(), k -> new LinkedHashMap<>());
            VisitView before = visits.getOrDefault(
                    r.visit().value(), new VisitView(r.visit().value(), r.step().value(), r.at(), null, null, null));
            visits.put(r.visit().value(), after(before, r));
        }
        return runs;
    }

    private static VisitView after(VisitView v, Recorded r) {
        return switch (r.event()) {
            case Event.Leaving e
            when e.exit() != null -> new VisitView(v.id(), v.step(), v.openedAt(), r.at(), e.exit(), null);
            case Event.Ended e -> new VisitView(v.id(), v.step(), v.openedAt(), r.at(), e.result(), null);
            case Event.Withdrawn e -> new VisitView(v.id(), v.step(), v.openedAt(), r.at(), "withdrawn", null);
            case Event.Stalled e -> new VisitView(v.id(), v.step(), v.openedAt(), null, null, e.code());
            case CallUnsure e -> new VisitView(v.id(), v.step(), v.openedAt(), null, null, "unsure");
            case Event.Intervened e -> new VisitView(v.id(), v.step(), v.openedAt(), null, null, null);
            default -> v;
        };
    }
}
