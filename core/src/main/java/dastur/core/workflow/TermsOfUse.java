package dastur.core.workflow;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.people.Role;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.ServiceId;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * Who answers for an action, who may use it and where (M5, N86). They are of all its versions and stand beside them: what is set
 * holds for whatever begins afterwards, and workflows that were published before begin nothing that it no longer lets. What was done
 * already may be put back all the same. With which values it may be used is a {@link Limit} of each input.
 *
 * @param keeper who answers for it, and alone changes it; null for nobody: then whoever designs may
 * @param groups in one of which the owner of a workflow is, or whoever calls it by hand; null for any
 * @param services of which a ticket is about one; null for any
 * @param sites at one of which the ticket's CI stands; null for any
 * @param tellAfter after how many bad calls in a row the keeper is told, 1 to {@value #MOST_BAD}; null for never
 * @param renewMonths after how many months the keeper is to look at it again, 1 to {@value #MOST_MONTHS}; null for never
 * @param renewedAt when the keeper last said that all of it is right still
 */
public record TermsOfUse(
        ActionKey action,
        @Nullable PersonId keeper,
        @Nullable List<GroupId> groups,
        @Nullable List<ServiceId> services,
        @Nullable List<String> sites,
        @Nullable Integer tellAfter,
        @Nullable Integer renewMonths,
        @Nullable Instant renewedAt) {
    /** What a message to a keeper is for. */
    public static final String TELLS = "keeper";

    public static final int MOST_BAD = 100;
    public static final int MOST_MONTHS = 36;

    public TermsOfUse {
        groups = groups == null || groups.isEmpty() ? null : List.copyOf(groups);
        services = services == null || services.isEmpty() ? null : List.copyOf(services);
        sites = sites == null || sites.isEmpty() ? null : List.copyOf(sites);
        if (tellAfter != null && (tellAfter < 1 || tellAfter > MOST_BAD)) {
            throw new IllegalArgumentException("The keeper is told after 1 to " + MOST_BAD + " bad calls in a row.");
        }
        if (renewMonths != null && (renewMonths < 1 || renewMonths > MOST_MONTHS)) {
            throw new IllegalArgumentException("It is looked at again after 1 to " + MOST_MONTHS + " months.");
        }
    }

    /** Everybody may use it, everywhere, and nobody answers for it. */
    public static TermsOfUse none(ActionKey action) {
        return new TermsOfUse(action, null, null, null, null, null, null, null);
    }

    /** By what it is known that the keeper was told of an action. */
    public static String about(ActionKey action) {
        return "action " + action;
    }

    /** The same, looked at again at a moment. */
    public TermsOfUse renewed(Instant at) {
        return new TermsOfUse(action, keeper, groups, services, sites, tellAfter, renewMonths, at);
    }

    /** By when it is to be looked at again; empty where it is not. */
    public Optional<Instant> renewBy() {
        return renewMonths == null || renewedAt == null
                ? Optional.empty()
                : Optional.of(
                        renewedAt.atZone(ZoneOffset.UTC).plusMonths(renewMonths).toInstant());
    }

    /** Whether a keeper can act as one: they are here, and may design. */
    public static boolean canKeep(Person person) {
        return Right.DESIGN.of(person);
    }

    /**
     * Whether somebody who may design may change the action and its terms: its keeper, an administrator, and where nobody is there to
     * answer for it, anybody who designs.
     */
    public boolean letsChange(Person person, Function<PersonId, Optional<Person>> people) {
        return person.has(Role.ADMINISTRATOR)
                || person.id().equals(keeper)
                || keeper == null
                || people.apply(keeper).filter(TermsOfUse::canKeep).isEmpty();
    }

    /**
     * Why somebody may not use it, as a sentence; empty where they may.
     *
     * @param name what the action is called
     * @param who owner of the workflow, or whoever calls it by hand
     */
    public Optional<String> problemOf(
            String name,
            PersonId who,
            Function<GroupId, Optional<Group>> found,
            Function<PersonId, Optional<Person>> people) {
        if (groups == null || who.equals(keeper)) {
            return Optional.empty();
        }
        List<Group> of = groups.stream().map(found).flatMap(Optional::stream).toList();
        if (of.stream().anyMatch(g -> g.members().contains(who))) {
            return Optional.empty();
        }
        String names = String.join(" and ", of.stream().map(Group::name).toList());
        return Optional.of("'" + name + "' may be used by " + (names.isEmpty() ? "its keeper alone" : names) + ", and "
                + people.apply(who).map(Person::name).orElse(who.value()) + " is not among them.");
    }

    /**
     * Why it may not be used on a ticket, as a sentence; empty where it may.
     *
     * @param service what the ticket is about; null for nothing
     * @param ci what it is about; empty for nothing
     */
    public Optional<String> problemOn(
            String name,
            @Nullable String service,
            Optional<ConfigurationItem> ci,
            Function<ServiceId, Optional<String>> named) {
        if (services != null && services.stream().noneMatch(s -> s.value().equals(service))) {
            return Optional.of("'" + name + "' may be used on tickets about "
                    + String.join(
                            " or ",
                            services.stream()
                                    .map(s -> named.apply(s).orElse(s.value()))
                                    .toList())
                    + " alone.");
        }
        if (sites != null
                && ci.map(ConfigurationItem::site).filter(sites::contains).isEmpty()) {
            return Optional.of("'" + name + "' may be used on tickets whose CI stands at " + String.join(" or ", sites)
                    + " alone"
                    + ci.map(c -> ", and " + c.name() + " stands "
                                    + Objects.requireNonNullElse(c.site(), "nowhere that is known"))
                            .orElse(", and this one names no CI")
                    + ".");
        }
        return Optional.empty();
    }
}
