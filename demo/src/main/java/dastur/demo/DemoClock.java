package dastur.demo;

import dastur.store.Organisation;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.concurrent.atomic.AtomicReference;

/** The real time, moved ahead by hand so that due times and ladders can be seen at work. Never goes back, not even over a restart. */
public final class DemoClock implements InstantSource {
    private static final String SETTING = "clockAhead";

    private final InstantSource real;
    private final Organisation organisation;
    private final AtomicReference<Duration> ahead;

    public DemoClock(InstantSource real, Organisation organisation) {
        this.real = real;
        this.organisation = organisation;
        this.ahead = new AtomicReference<>(
                organisation.setting(SETTING).map(Duration::parse).orElse(Duration.ZERO));
    }

    @Override
    public Instant instant() {
        return real.instant().plus(ahead.get());
    }

    public void advance(Duration by) {
        organisation.putSetting(SETTING, ahead.updateAndGet(d -> d.plus(by)).toString());
    }
}
