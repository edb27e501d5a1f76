package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketId;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What makes two signals the same fault, and how it stands (I19). A new one grows from each signal.
 *
 * @param lastAt when a signal last spoke of it
 * @param count how many did
 * @param about the ticket that is about it; null for none
 * @param aside what explains its fault for now; null for nothing, and when it is clear
 * @param notEntered signals that its ticket's record does not tell of yet
 * @param judgeAt when to look at it again; null when there is nothing to look for
 */
public record Matter(
        String key,
        String title,
        @Nullable CiId ci,
        Standing standing,
        Instant lastAt,
        long count,
        Turns turns,
        @Nullable About about,
        @Nullable Aside aside,
        NotEntered notEntered,
        @Nullable Instant judgeAt) {
    /** After how long repeats are entered: the first at once, then ever more seldom (I7). */
    private static final List<Duration> ENTERED_AFTER = List.of(
            Duration.ZERO,
            Duration.ofSeconds(1),
            Duration.ofSeconds(10),
            Duration.ofMinutes(1),
            Duration.ofMinutes(10));

    /** So long after it was last in fault its ticket is taken up again when it comes back (I25). */
    public static final Duration TAKEN_UP_AGAIN = Duration.ofHours(2);

    /**
     * In fault, or clear.
     *
     * @param inFault the sources that report the fault and have not said since that it is over; empty when it is clear
     * @param worst the worst severity since it began; null when it is clear
     * @param since when it came to stand as it does
     * @param lastFault when a fault was last reported; null for never
     */
    public record Standing(
            List<SourceKey> inFault,
            @Nullable Severity worst,
            Instant since,
            @Nullable Instant lastFault) {}

    /**
     * When it last began or recovered, the oldest first.
     *
     * @param unsteadyUntil until when turns start and restore nothing; null when it is steady (I23)
     */
    public record Turns(List<Instant> times, @Nullable Instant unsteadyUntil) {
        private static final int UNSTEADY = 6;
        private static final Duration WITHIN = Duration.ofMinutes(15);
        private static final Duration STEADY_AFTER = Duration.ofMinutes(30);
        private static final int KEPT = 16;

        static final Turns NONE = new Turns(List.of(), null);

        Turns and(Instant now) {
            List<Instant> all = new ArrayList<>(times);
            all.add(now);
            List<Instant> kept = List.copyOf(all.subList(Math.max(0, all.size() - KEPT), all.size()));
            long lately =
                    kept.stream().filter(t -> t.isAfter(now.minus(WITHIN))).count();
            boolean unsteady = lately >= UNSTEADY || unsteady(now);
            return new Turns(kept, unsteady ? now.plus(STEADY_AFTER) : null);
        }

        boolean unsteady(Instant now) {
            return unsteadyUntil != null && unsteadyUntil.isAfter(now);
        }
    }

    /**
     * The ticket that is about it.
     *
     * @param recovery what is done about the ticket when it has recovered
     * @param told whether the ticket has been told that it has
     */
    public record About(TicketId ticket, Recovery recovery, boolean told) {}

    /**
     * What is done about a ticket when what it is about has recovered (I24).
     *
     * @param restores whether it is set to restored; else that is proposed
     * @param clearSeconds how long it must stay clear before
     * @param stopsRuns whether runs that a signal started are stopped then
     */
    public record Recovery(boolean restores, long clearSeconds, boolean stopsRuns) {
        /** Proposes, after five minutes; runs go on. */
        public static final Recovery USUAL = new Recovery(false, 300, false);

        public Recovery {
            if (clearSeconds < 0 || clearSeconds > 86_400) {
                throw new IllegalArgumentException("It must stay clear between 0 and 86,400 seconds.");
            }
        }
    }

    /**
     * Repeats that wait to be entered.
     *
     * @param count how many
     * @param first when the first of them came; null for none
     * @param entered how often repeats were entered since it turned
     */
    public record NotEntered(
            long count,
            @Nullable Instant first,
            int entered,
            @Nullable Instant lastEntered) {
        static final NotEntered NONE = new NotEntered(0, null, 0, null);
    }

    /** A matter after a signal, and what that signal did to it. */
    public record Turned(Turn turn, Matter matter) {}

    /** The matter of a signal that is the first of it, before that signal. */
    public static Matter first(Signal s, String key) {
        return new Matter(
                key,
                s.title(),
                s.ci(),
                new Standing(List.of(), null, s.at(), null),
                s.cameAt(),
                0,
                Turns.NONE,
                null,
                null,
                NotEntered.NONE,
                null);
    }

    @JsonIgnore
    public boolean isClear() {
        return standing.inFault().isEmpty();
    }

    public boolean isUnsteady(Instant now) {
        return turns.unsteady(now);
    }

    @JsonIgnore
    public @Nullable TicketId ticket() {
        return about == null ? null : about.ticket();
    }

    /** The matter after a signal about it. */
    public Turned after(Signal s) {
        return switch (s.sort()) {
            case NEWS -> new Turned(Turn.NEWS, counted(s));
            case FAULT -> fault(s);
            case RECOVERED -> recovered(s);
        };
    }

    private Turned fault(Signal s) {
        boolean before = isClear() && count > 0 && s.at().isBefore(standing.since());
        if (before) {
            return new Turned(Turn.OUT_OF_ORDER, counted(s));
        }
        TreeSet<SourceKey> sources = new TreeSet<>(standing.inFault());
        sources.add(s.source());
        List<SourceKey> all = List.copyOf(sources);
        if (isClear()) {
            Standing begun = new Standing(all, s.severity(), s.at(), s.at());
            return counted(s).titled(s.title()).with(begun).turned(Turn.BEGINS, s.cameAt());
        }
        boolean worse = s.severity() != null && s.severity().worseThan(standing.worst());
        Standing after = new Standing(all, worse ? s.severity() : standing.worst(), standing.since(), s.at());
        return new Turned(
                worse && !isUnsteady(s.cameAt()) ? Turn.WORSE : Turn.REPEATS,
                counted(s).with(after));
    }

    private Turned recovered(Signal s) {
        if (isClear()) {
            return new Turned(Turn.NOTHING, counted(s));
        }
        if (standing.lastFault() != null && s.at().isBefore(standing.lastFault())) {
            return new Turned(Turn.OUT_OF_ORDER, counted(s));
        }
        List<SourceKey> left =
                standing.inFault().stream().filter(k -> !k.equals(s.source())).toList();
        if (!left.isEmpty()) {
            Standing still = new Standing(left, standing.worst(), standing.since(), standing.lastFault());
            return new Turned(Turn.STILL, counted(s).with(still));
        }
        return counted(s)
                .with(new Standing(List.of(), null, s.at(), standing.lastFault()))
                .turned(Turn.RECOVERED, s.cameAt());
    }

    /** Notes a turn, and whether it turns too often to mean anything. */
    private Turned turned(Turn turn, Instant now) {
        Turns more = turns.and(now);
        About on = about == null ? null : new About(about.ticket(), about.recovery(), false);
        Matter m = new Matter(key, title, ci, standing, lastAt, count, more, on, aside, notEntered, judgeAt);
        return new Turned(more.unsteady(now) ? Turn.UNSTEADY : turn, m);
    }

    // --- what becomes of it

    /** It is what a ticket is about; its turn stands on the record. */
    public Matter on(TicketId other, Recovery then) {
        return about(new About(other, then, false)).onItsOwn().turnEntered(lastAt);
    }

    /**
     * Its ticket has ended: whatever was in fault until then is over with it, and begins anew if it is said again. There is nobody
     * left to tell of its recovery.
     */
    public Matter ended(Instant at) {
        return new Matter(
                key,
                title,
                ci,
                new Standing(List.of(), null, at, standing.lastFault()),
                lastAt,
                count,
                turns,
                about == null ? null : new About(about.ticket(), about.recovery(), true),
                null,
                NotEntered.NONE,
                null);
    }

    /** Another ticket explains the fault for now. What is clear needs no explanation. */
    public Matter setAside(TicketId under, Aside.Because because, Instant now) {
        return aside(isClear() ? null : Aside.under(under, because, now));
    }

    /** Nothing explains it but itself. */
    public Matter onItsOwn() {
        return aside(null);
    }

    /** As it is after a look at what explains its fault. @param holds whether that still does */
    public Matter asideLooked(boolean holds, Instant now) {
        return aside(aside == null || isClear() ? null : aside.looked(holds, now));
    }

    /** Whether it is in fault, and has been for long enough without what explained it (I21, I22). */
    public boolean outlasts(Instant now) {
        return aside != null && !isClear() && aside.outlasted(now);
    }

    /** Its ticket is told that it has recovered. */
    public Matter recoveryTold() {
        return about == null ? this : about(new About(about.ticket(), about.recovery(), true));
    }

    /** It was unsteady long enough ago. */
    public Matter steady() {
        return new Matter(
                key,
                title,
                ci,
                standing,
                lastAt,
                count,
                new Turns(turns.times(), null),
                about,
                aside,
                notEntered,
                judgeAt);
    }

    /** One more that its ticket's record does not tell of yet. */
    public Matter waitsToBeEntered(Instant at) {
        NotEntered n = notEntered;
        return entering(
                new NotEntered(n.count() + 1, n.first() == null ? at : n.first(), n.entered(), n.lastEntered()));
    }

    /** All that waited is entered. */
    public Matter entered(Instant at) {
        return entering(new NotEntered(0, null, notEntered.entered() + 1, at));
    }

    /** A turn is entered, with all that waited: what repeats from now on is entered soon again. */
    public Matter turnEntered(Instant at) {
        return entering(new NotEntered(0, null, 0, at));
    }

    /** When what waits is to be entered; empty when nothing waits. */
    public Optional<Instant> enterAt() {
        if (notEntered.count() == 0 || about == null) {
            return Optional.empty();
        }
        Instant from = notEntered.lastEntered() == null ? notEntered.first() : notEntered.lastEntered();
        Duration pause = ENTERED_AFTER.get(Math.min(notEntered.entered(), ENTERED_AFTER.size() - 1));
        return Optional.ofNullable(from).map(f -> f.plus(pause));
    }

    /** When its ticket is to be told that it has recovered, if it stays so; empty when not. */
    public Optional<Instant> recoveredAt() {
        boolean open = isClear() && about != null && !about.told() && turns.unsteadyUntil() == null;
        return open ? Optional.of(standing.since().plusSeconds(about.recovery().clearSeconds())) : Optional.empty();
    }

    /** The matter, to be looked at again when the next of its times has come. */
    public Matter judged() {
        Instant next = Stream.of(
                        enterAt().orElse(null),
                        recoveredAt().orElse(null),
                        turns.unsteadyUntil(),
                        aside == null ? null : aside.lookAt())
                .filter(Objects::nonNull)
                .min(Instant::compareTo)
                .orElse(null);
        return new Matter(key, title, ci, standing, lastAt, count, turns, about, aside, notEntered, next);
    }

    public Matter judgedAt(Instant at) {
        return new Matter(key, title, ci, standing, lastAt, count, turns, about, aside, notEntered, at);
    }

    private Matter counted(Signal s) {
        Instant last = s.cameAt().isAfter(lastAt) ? s.cameAt() : lastAt;
        return new Matter(
                key,
                title,
                ci == null ? s.ci() : ci,
                standing,
                last,
                count + 1,
                turns,
                about,
                aside,
                notEntered,
                judgeAt);
    }

    private Matter with(Standing other) {
        return new Matter(key, title, ci, other, lastAt, count, turns, about, aside, notEntered, judgeAt);
    }

    private Matter titled(String other) {
        return new Matter(key, other, ci, standing, lastAt, count, turns, about, aside, notEntered, judgeAt);
    }

    private Matter about(About other) {
        return new Matter(key, title, ci, standing, lastAt, count, turns, other, aside, notEntered, judgeAt);
    }

    private Matter aside(@Nullable Aside other) {
        return new Matter(key, title, ci, standing, lastAt, count, turns, about, other, notEntered, judgeAt);
    }

    private Matter entering(NotEntered other) {
        return new Matter(key, title, ci, standing, lastAt, count, turns, about, aside, other, judgeAt);
    }
}
