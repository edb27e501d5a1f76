package dastur.server.signals;

import dastur.core.run.Event;
import dastur.core.start.Routed;
import java.util.List;

/** What stands on a signal: why it went where it did. */
public record Why(List<Routed.Told> told, List<Event.Look> looks) {}
