package dastur.core.people;

import dastur.core.time.WorkingCalendar.Hours;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * Who is on call when (N20, N60). A rota has levels: the first is called first, the second next. All turns are counted in
 * local time, so that a hand-over at eight stays at eight when the clocks change (law 7).
 *
 * @param levels at least one, at most 5
 * @param swaps who stands in for whoever would be on call; a later one wins
 */
public record Rota(RotaKey key, String name, ZoneId zone, List<Level> levels, List<Swap> swaps) {
    /** How far shifts are computed in one go. */
    public static final int MAX_DAYS = 400;

    /** One level. @param layers the first layer that has somebody at a moment counts */
    public record Level(List<Layer> layers) {
        public Level {
            layers = List.copyOf(layers);
            bounded(layers.size(), 5, "layers in a level");
        }
    }

    /**
     * People who take turns.
     *
     * @param start when the first of them begins, in the rota's zone; nobody is on call before
     * @param days how long a turn is
     * @param hours when this layer counts, by day of the week; empty for always
     */
    public record Layer(List<PersonId> people, LocalDateTime start, int days, Map<DayOfWeek, List<Hours>> hours) {
        public Layer {
            people = List.copyOf(people);
            hours = Collections.unmodifiableMap(new TreeMap<>(hours));
            bounded(people.size(), 50, "people in a layer");
            if (people.isEmpty()) {
                throw new IllegalArgumentException("A layer of a rota needs somebody to take turns.");
            }
            if (days < 1 || days > 366) {
                throw new IllegalArgumentException("A turn takes 1 to 366 days, but was " + days + ".");
            }
        }

        private Optional<PersonId> at(LocalDateTime local) {
            if (local.isBefore(start) || !counts(local)) {
                return Optional.empty();
            }
            long turn = ChronoUnit.DAYS.between(start, local) / days;
            return Optional.of(people.get((int) (turn % people.size())));
        }

        private boolean counts(LocalDateTime local) {
            return hours.isEmpty()
                    || hours.getOrDefault(local.getDayOfWeek(), List.of()).stream()
                            .anyMatch(h -> !local.toLocalTime().isBefore(h.from())
                                    && (h.to().equals(java.time.LocalTime.MIDNIGHT)
                                            || local.toLocalTime().isBefore(h.to())));
        }
    }

    /** Somebody stands in at a level, whoever's turn it would be. @param level counted from 1 */
    public record Swap(int level, PersonId person, Instant from, Instant until) {
        public Swap {
            if (!from.isBefore(until)) {
                throw new IllegalArgumentException("Standing in ends after it begins.");
            }
        }
    }

    /** A stretch of time with one person, or with nobody: a gap. */
    public record Shift(@Nullable PersonId person, Instant from, Instant until) {}

    public Rota {
        levels = List.copyOf(levels);
        swaps = List.copyOf(swaps);
        bounded(levels.size(), 5, "levels in a rota");
        bounded(swaps.size(), 500, "times of standing in");
        if (levels.isEmpty()) {
            throw new IllegalArgumentException("A rota needs at least one level.");
        }
        int known = levels.size();
        if (swaps.stream().anyMatch(s -> s.level() < 1 || s.level() > known)) {
            throw new IllegalArgumentException("Somebody stands in at a level that the rota does not have.");
        }
    }

    private static void bounded(int size, int most, String what) {
        if (size > most) {
            throw new IllegalArgumentException("There are at most " + most + " " + what + ", but were " + size + ".");
        }
    }

    /** Who is on call at a level at a moment; empty in a gap and at levels that do not exist. */
    public Optional<PersonId> onCall(int level, Instant at) {
        if (level < 1 || level > levels.size()) {
            return Optional.empty();
        }
        for (int i = swaps.size() - 1; i >= 0; i--) {
            Swap swap = swaps.get(i);
            if (swap.level() == level && !at.isBefore(swap.from()) && at.isBefore(swap.until())) {
                return Optional.of(swap.person());
            }
        }
        LocalDateTime local = LocalDateTime.ofInstant(at, zone);
        return levels.get(level - 1).layers().stream()
                .map(layer -> layer.at(local))
                .flatMap(Optional::stream)
                .findFirst();
    }

    /**
     * All stretches of a level between two moments, in order and without holes: a gap is a shift with nobody.
     *
     * @throws IllegalArgumentException for more than {@value #MAX_DAYS} days
     */
    public List<Shift> shifts(int level, Instant from, Instant until) {
        if (ChronoUnit.DAYS.between(from, until) > MAX_DAYS) {
            throw new IllegalArgumentException("Shifts are shown for at most " + MAX_DAYS + " days.");
        }
        List<Shift> shifts = new ArrayList<>();
        if (level < 1 || level > levels.size()) {
            return shifts;
        }
        Instant begun = from;
        PersonId person = onCall(level, from).orElse(null);
        for (Instant boundary : boundaries(level, from, until)) {
            PersonId next = onCall(level, boundary).orElse(null);
            if (!java.util.Objects.equals(person, next)) {
                shifts.add(new Shift(person, begun, boundary));
                begun = boundary;
                person = next;
            }
        }
        if (begun.isBefore(until)) {
            shifts.add(new Shift(person, begun, until));
        }
        return shifts;
    }

    /** Every moment at which somebody else may be on call. */
    private TreeSet<Instant> boundaries(int level, Instant from, Instant until) {
        TreeSet<Instant> moments = new TreeSet<>();
        LocalDate first = LocalDate.ofInstant(from, zone).minusDays(1);
        LocalDate last = LocalDate.ofInstant(until, zone).plusDays(1);
        for (LocalDate day = first; !day.isAfter(last); day = day.plusDays(1)) {
            for (Layer layer : levels.get(level - 1).layers()) {
                moments.add(
                        ZonedDateTime.of(day, layer.start().toLocalTime(), zone).toInstant());
                for (Hours h : layer.hours().getOrDefault(day.getDayOfWeek(), List.of())) {
                    moments.add(ZonedDateTime.of(day, h.from(), zone).toInstant());
                    boolean midnight = h.to().equals(java.time.LocalTime.MIDNIGHT);
                    moments.add(ZonedDateTime.of(midnight ? day.plusDays(1) : day, h.to(), zone)
                            .toInstant());
                }
            }
        }
        swaps.forEach(s -> {
            moments.add(s.from());
            moments.add(s.until());
        });
        moments.removeIf(m -> !m.isAfter(from) || !m.isBefore(until));
        return moments;
    }
}
