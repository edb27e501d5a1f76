package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.store.Organisation;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;

/** What an account must be, whether it is set one by one or from a file. */
final class AccountRules {
    private final Set<PersonId> known = new HashSet<>();
    private final Set<GroupId> groups = new HashSet<>();
    /** Whose an address is, in small letters: one can sign in with it. */
    private final Map<String, PersonId> mails = new HashMap<>();

    AccountRules(Organisation organisation) {
        organisation.groups().forEach(g -> groups.add(g.id()));
        organisation.people().forEach(this::takes);
    }

    /** From here on somebody is there, with their address. */
    void takes(Person person) {
        known.add(person.id());
        mails.values().removeIf(person.id()::equals);
        if (!person.mail().isEmpty()) {
            mails.put(person.mail().toLowerCase(Locale.ROOT), person.id());
        }
    }

    /** From here on somebody may be named, since they are about to be there. */
    void announces(PersonId person) {
        known.add(person);
    }

    /** @throws Csv.Wrong when something does not fit */
    Person checked(Person given, List<GroupId> in) {
        String mail = given.mail();
        if (Texts.blank(given.name()) || given.name().length() > 200 || !Texts.keepable(given.name())) {
            throw new Csv.Wrong("name", "A name has 1 to 200 characters.");
        }
        if (!mail.isEmpty() && !mail.matches("[^\\s@<>,;\"]{1,200}@[^\\s@<>,;\"]{1,90}")) {
            throw new Csv.Wrong("mail", "'" + Texts.clip(mail, 60) + "' is not a mail address.");
        }
        in.stream().filter(g -> !groups.contains(g)).findFirst().ifPresent(g -> {
            throw new Csv.Wrong("groups", "There is no group '" + g + "'.");
        });
        if (given.active() && given.roles().isEmpty()) {
            throw new Csv.Wrong("roles", "Somebody with no role can do nothing here: give at least one.");
        }
        if (given.manager() != null && given.manager().equals(given.id())) {
            throw new Csv.Wrong("manager", "Nobody is their own manager.");
        }
        if (given.manager() != null && !known.contains(given.manager())) {
            throw new Csv.Wrong("manager", "There is nobody called '" + given.manager() + "'.");
        }
        PersonId whose = mails.get(mail.toLowerCase(Locale.ROOT));
        if (whose != null && !whose.equals(given.id())) {
            throw new Csv.Wrong("mail", "Somebody else has this address, and one can sign in with it.");
        }
        return given;
    }
}
