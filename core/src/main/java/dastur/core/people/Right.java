package dastur.core.people;

import java.util.Set;

/** What a route needs. Every route names one; a person has it through a role. */
public enum Right {
    /** Even without signing in. */
    ANYBODY(Set.of()),
    /** Any active account. */
    SIGNED_IN(Set.of(Role.values())),
    /** Raise tickets and see one's own. */
    ASK(Set.of(Role.REQUESTER, Role.AGENT, Role.PROCESS_OWNER, Role.ADMINISTRATOR)),
    /** See all tickets, people and workflows. */
    SEE(Set.of(Role.AGENT, Role.PROCESS_OWNER, Role.ADMINISTRATOR, Role.AUDITOR)),
    /** Work on tickets: edit, note, start workflows. Doing a task or voting is decided by whom it is offered to. */
    WORK(Set.of(Role.AGENT, Role.PROCESS_OWNER, Role.ADMINISTRATOR)),
    /** Design and publish workflows, intervene in runs. */
    DESIGN(Set.of(Role.PROCESS_OWNER, Role.ADMINISTRATOR)),
    /** Set up the application. */
    ADMINISTER(Set.of(Role.ADMINISTRATOR));

    private final Set<Role> roles;

    Right(Set<Role> roles) {
        this.roles = roles;
    }

    public boolean of(Person person) {
        return this == ANYBODY || person.active() && roles.stream().anyMatch(person::has);
    }
}
