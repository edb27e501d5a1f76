package dastur.store;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.people.PersonId;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Sign-ins and API tokens. Only hashes of secrets are kept. */
public final class Sessions {
    /** An open sign-in. @param seesAs as whom the person only looks; null as themselves */
    public record Session(
            PersonId person,
            String csrf,
            Instant expiresAt,
            @Nullable PersonId seesAs) {
        public Session(PersonId person, String csrf, Instant expiresAt) {
            this(person, csrf, expiresAt, null);
        }
    }

    /** An API token without its secret. */
    public record Token(String id, String name, Instant createdAt, Scope scope, Instant expiresAt) {}

    private final Database database;

    public Sessions(Database database) {
        this.database = database;
    }

    public void open(String tokenHash, Session session) {
        database.run(s -> {
            Rows.SessionRow row = new Rows.SessionRow();
            row.tokenHash = tokenHash;
            row.person = session.person().value();
            row.csrf = session.csrf();
            // As exactly as it is stored: the code is over what is read back.
            row.expiresAt = session.expiresAt().truncatedTo(ChronoUnit.MILLIS);
            row.mac = database.mac().over(fields(row));
            s.insert(row);
            s.createMutationQuery("update PersonRow set lastSeen = instant where id = ?1")
                    .setParameter(1, row.person)
                    .executeUpdate();
        });
    }

    private static @Nullable String[] fields(Rows.SessionRow r) {
        return new @Nullable String[] {
            "session", r.tokenHash, r.person, r.csrf, String.valueOf(r.expiresAt.toEpochMilli()), r.seesAs
        };
    }

    private static String[] fields(Rows.ApiTokenRow t) {
        return new String[] {
            "token", t.id, t.tokenHash, t.person, t.name, t.scope, String.valueOf(t.expiresAt.toEpochMilli())
        };
    }

    public Optional<Session> find(String tokenHash, Instant now) {
        return database.read(s -> Optional.ofNullable(s.get(Rows.SessionRow.class, tokenHash)))
                .filter(r -> r.expiresAt.isAfter(now) && database.mac().holds(r.mac, fields(r)))
                .map(r -> new Session(
                        new PersonId(r.person), r.csrf, r.expiresAt, r.seesAs == null ? null : new PersonId(r.seesAs)));
    }

    /** Lets somebody look as somebody else, or as themselves again; on the journal. @param as null as themselves */
    public void seeAs(String tokenHash, Journal.By by, @Nullable PersonId as) {
        database.run(s -> {
            Rows.SessionRow row = s.get(Rows.SessionRow.class, tokenHash);
            PersonId seen = as != null ? as : new PersonId(row.seesAs == null ? row.person : row.seesAs);
            row.seesAs = as == null ? null : as.value();
            row.mac = database.mac().over(fields(row));
            s.update(row);
            Journal.write(s, by, "person", seen.value(), as == null ? "no longer seen as" : "seen as", null);
        });
    }

    /** Somebody may act as a person until a moment, because that person said so. */
    public record Grant(PersonId person, PersonId grantee, Instant until) {}

    /** Whom a person lets act as them, also when it is over. */
    public Optional<Grant> grantOf(PersonId person) {
        return database.read(s -> Optional.ofNullable(s.get(Rows.ActAsGrantRow.class, person.value())))
                .map(r -> new Grant(new PersonId(r.person), new PersonId(r.grantee), r.untilAt));
    }

    public boolean mayActAs(PersonId grantee, PersonId person, Instant now) {
        return grantOf(person)
                .filter(g -> g.grantee().equals(grantee) && g.until().isAfter(now))
                .isPresent();
    }

    /** Lets somebody act as a person; on the journal. */
    public void grant(Journal.By by, Grant grant) {
        database.run(s -> {
            Rows.ActAsGrantRow row = new Rows.ActAsGrantRow();
            row.person = grant.person().value();
            row.grantee = grant.grantee().value();
            row.untilAt = grant.until();
            s.upsert(row);
            Journal.write(
                    s, by, "person", row.person, "may be acted for", "by " + row.grantee + " until " + grant.until());
        });
    }

    public void endGrant(Journal.By by, PersonId person) {
        database.run(s -> {
            int ended = s.createMutationQuery("delete ActAsGrantRow where person = ?1")
                    .setParameter(1, person.value())
                    .executeUpdate();
            if (ended > 0) {
                Journal.write(s, by, "person", person.value(), "no longer acted for", null);
            }
        });
    }

    public void close(String tokenHash) {
        database.run(s -> s.createMutationQuery("delete SessionRow where tokenHash = ?1")
                .setParameter(1, tokenHash)
                .executeUpdate());
    }

    public void forgetExpired(Instant now) {
        database.run(s -> s.createMutationQuery("delete SessionRow where expiresAt < ?1")
                .setParameter(1, now)
                .executeUpdate());
    }

    /** What a token is for. */
    public enum Scope {
        /** To read only. */
        READ("read"),
        /** Everything that its person may. */
        ALL("all");

        private final String word;

        Scope(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** Whose a token is, and what it is for. */
    public record TokenOf(PersonId person, Scope scope) {}

    /** @param until when it ends */
    public void addToken(
            String id, String tokenHash, PersonId person, String name, Scope scope, Instant at, Instant until) {
        database.run(s -> {
            Rows.ApiTokenRow row = new Rows.ApiTokenRow();
            row.id = id;
            row.tokenHash = tokenHash;
            row.person = person.value();
            row.name = name;
            row.createdAt = at;
            row.scope = scope.word();
            row.expiresAt = until.truncatedTo(ChronoUnit.MILLIS);
            row.mac = database.mac().over(fields(row));
            s.insert(row);
        });
    }

    /** Whose token this is; empty when there is none, it has ended, or somebody else than the application wrote it. */
    public Optional<TokenOf> token(String tokenHash, Instant now) {
        return database.read(s -> s
                        .createSelectionQuery("from ApiTokenRow where tokenHash = ?1", Rows.ApiTokenRow.class)
                        .setParameter(1, tokenHash)
                        .getResultList()
                        .stream()
                        .findFirst())
                .filter(t -> t.expiresAt.isAfter(now) && database.mac().holds(t.mac, fields(t)))
                .map(t -> new TokenOf(new PersonId(t.person), scope(t.scope)));
    }

    /** What is not known is the narrower. */
    private static Scope scope(String word) {
        return Scope.ALL.word().equals(word) ? Scope.ALL : Scope.READ;
    }

    public List<Token> tokensOf(PersonId person) {
        return database.read(s -> s
                .createSelectionQuery("from ApiTokenRow where person = ?1 order by createdAt", Rows.ApiTokenRow.class)
                .setParameter(1, person.value())
                .getResultList()
                .stream()
                .map(t -> new Token(t.id, t.name, t.createdAt, scope(t.scope), t.expiresAt))
                .toList());
    }

    /**
     * Takes over what a release wrote that made no codes yet: once, when the key for codes is made. Afterwards what has no
     * code is not believed.
     */
    public void takeOver() {
        database.run(s -> {
            for (Rows.ApiTokenRow token : s.createSelectionQuery(
                            "from ApiTokenRow where mac is null", Rows.ApiTokenRow.class)
                    .getResultList()) {
                token.mac = database.mac().over(fields(token));
                s.update(token);
            }
            for (Rows.PersonRow person : s.createSelectionQuery(
                            "from PersonRow where password is not null", Rows.PersonRow.class)
                    .getResultList()) {
                if (person.password.indexOf(StoredPassword.SEPARATOR) < 0) {
                    person.password = StoredPassword.of(database.mac(), person.id, person.password);
                    s.update(person);
                }
            }
        });
    }

    /** Whether a token of the person was there to be deleted. */
    public boolean deleteToken(String id, PersonId person) {
        return database.write(s -> s.createMutationQuery("delete ApiTokenRow where id = ?1 and person = ?2")
                        .setParameter(1, id)
                        .setParameter(2, person.value())
                        .executeUpdate())
                > 0;
    }
}
