package dastur.connectors;

import static dastur.connectors.RealServer.ALIVE;
import static dastur.connectors.RealServer.call;
import static dastur.connectors.RealServer.output;
import static dastur.connectors.RealServer.shell;
import static dastur.connectors.RealServer.started;
import static dastur.connectors.RealServer.stop;
import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.FreePort;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/** LDAP against the directory server of OpenLDAP, as Debian has it (M9). {@code ./dastur test} installs it. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class OpenLdapTest {
    private static final String PASSWORD = "kept-by-the-test";

    @TempDir
    static Path folder;

    private final Connectors connectors = new Connectors();
    private @Nullable Process server;
    private String address = "";

    @BeforeAll
    void start() throws Exception {
        int port = FreePort.any();
        Files.createDirectories(folder.resolve("data"));
        Files.writeString(folder.resolve("conf"), """
                include /etc/ldap/schema/core.schema
                include /etc/ldap/schema/cosine.schema
                include /etc/ldap/schema/inetorgperson.schema
                include /etc/ldap/schema/nis.schema
                modulepath /usr/lib/ldap
                moduleload back_mdb
                database mdb
                suffix "dc=kestrel,dc=example"
                rootdn "cn=dastur,dc=kestrel,dc=example"
                rootpw %s
                directory %s/data
                """.formatted(PASSWORD, folder));
        Files.writeString(folder.resolve("start.ldif"), """
                dn: dc=kestrel,dc=example
                objectClass: domain
                dc: kestrel

                dn: ou=people,dc=kestrel,dc=example
                objectClass: organizationalUnit
                ou: people

                dn: uid=aino,ou=people,dc=kestrel,dc=example
                objectClass: inetOrgPerson
                uid: aino
                cn: Aino Berg
                sn: Berg
                userPassword: not to be read

                dn: uid=birk,ou=people,dc=kestrel,dc=example
                objectClass: inetOrgPerson
                uid: birk
                cn: Birk Berg
                sn: Berg

                dn: cn=roster,dc=kestrel,dc=example
                objectClass: groupOfNames
                cn: roster
                member: uid=birk,ou=people,dc=kestrel,dc=example

                dn: cn=night,dc=kestrel,dc=example
                objectClass: posixGroup
                cn: night
                gidNumber: 700
                """.stripIndent());
        shell("/usr/sbin/slapadd", "-f", folder + "/conf", "-l", folder + "/start.ldif");
        server = started(
                folder.resolve("log"),
                port,
                "/usr/sbin/slapd",
                "-d",
                "0",
                "-f",
                folder + "/conf",
                "-h",
                "ldap://127.0.0.1:" + port);
        address = "ldap://127.0.0.1:" + port + "/dc=kestrel,dc=example?bind=cn=dastur,dc=kestrel,dc=example&tls=none";
    }

    @AfterAll
    void end() throws InterruptedException {
        connectors.close();
        stop(server);
    }

    private CallOutcome ask(String method, String body, Action.Output... outputs) throws Connector.Abandoned {
        return ask(address, PASSWORD, method, body, outputs);
    }

    private CallOutcome ask(String base, String password, String method, String body, Action.Output... outputs)
            throws Connector.Abandoned {
        return connectors.call(
                call(method, "/", body, outputs),
                new Connection("c", "The directory", base, List.of(), "key"),
                password,
                ALIVE);
    }

    private void status(String method, String body, String status) throws Connector.Abandoned {
        assertThat(ask(method, body, output("status", FieldType.TEXT, "/status")))
                .isInstanceOfSatisfying(
                        CallOutcome.Done.class, d -> assertThat(d.outputs()).containsEntry("status", status));
    }

    private void failed(CallOutcome outcome, String why) {
        assertThat(outcome).isInstanceOfAny(CallOutcome.Failed.class, CallOutcome.Fault.class);
        assertThat(outcome.toString()).contains(why).doesNotContain(PASSWORD);
    }

    private String entries(String where) throws Connector.Abandoned {
        CallOutcome found = ask("SEARCH", "{\"where\":" + where + "}", output("entries", FieldType.LIST, "/entries"));
        assertThat(found).isInstanceOf(CallOutcome.Done.class);
        return ((CallOutcome.Done) found).outputs().get("entries").toString();
    }

    @Test
    void somebodyJoinsAGroupAndLeavesItAndTwiceIsAlreadySo() throws Connector.Abandoned {
        for (String group : List.of("roster", "night")) {
            String who = "{\"group\":{\"cn\":\"" + group + "\"},\"member\":{\"uid\":\"aino\"}}";
            status("JOIN", who, "joined");
            status("JOIN", who, "already so");
            assertThat(entries("{\"cn\":\"" + group + "\"}")).contains("aino");
            status("LEAVE", who, "left");
            status("LEAVE", who, "already so");
            assertThat(entries("{\"cn\":\"" + group + "\"}")).doesNotContain("aino");
        }
    }

    @Test
    void aValueNeverWidensWhatIsMeantAndWhatIsNotOneChangesNothing() throws Connector.Abandoned {
        assertThat(entries("{\"uid\":\"*\"}")).isEqualTo("[]");
        assertThat(entries("{\"uid\":\"x)(uid=*\"}")).isEqualTo("[]");
        failed(ask("SEARCH", "{\"where\":{\"uid\":\"\"}}"), "Say which entries");
        failed(ask("SEARCH", "{\"where\":{\"uid)(cn\":\"x\"}}"), "Say which entries");
        failed(ask("JOIN", "{\"group\":{\"cn\":\"roster\"},\"member\":{\"sn\":\"Berg\"}}"), "more than one member");
        failed(ask("JOIN", "{\"group\":{\"cn\":\"none\"},\"member\":{\"uid\":\"aino\"}}"), "There is no group");
        assertThat(entries("{\"cn\":\"roster\"}")).doesNotContain("aino");
    }

    @Test
    void anEntryIsCreatedOnceAndChangedAndSaysWhatItWas() throws Connector.Abandoned {
        String one = "{\"named\":\"uid\",\"under\":\"ou=people\",\"attributes\":{\"objectClass\":[\"inetOrgPerson\"],"
                + "\"uid\":\"new, one+\",\"cn\":\"New\",\"sn\":\"One\"}}";
        status("CREATE", one, "created");
        failed(ask("CREATE", one), "already");
        assertThat(ask(
                        "MODIFY",
                        "{\"entry\":{\"uid\":\"new, one+\"},\"set\":{\"cn\":\"Newer\",\"description\":\"until May\"}}",
                        output("before", FieldType.ANY, "/before")))
                .isInstanceOfSatisfying(
                        CallOutcome.Done.class,
                        d -> assertThat(d.outputs().get("before").toString()).isEqualTo("{cn=New}"));
        assertThat(entries("{\"cn\":\"Newer\"}")).contains("until May");
    }

    @Test
    void passwordsAreNotReadAndWhoeverIsNotLetInIsToldWhy() throws Connector.Abandoned {
        assertThat(entries("{\"uid\":\"aino\"}")).contains("Aino Berg").doesNotContain("assword");
        failed(ask(address, "wrong", "SEARCH", "{\"where\":{\"uid\":\"aino\"}}"), "invalid credentials");
        failed(
                ask(address.replace("&tls=none", ""), PASSWORD, "SEARCH", "{\"where\":{\"uid\":\"aino\"}}"),
                "The directory");
        failed(
                ask(
                        address.replaceFirst(":\\d+/", ":" + FreePort.any() + "/"),
                        PASSWORD,
                        "JOIN",
                        "{\"group\":{\"cn\":\"roster\"},\"member\":{\"uid\":\"aino\"}}"),
                "No connection");
    }

    @Test
    void aTestTellsWhoAnswersAndWhetherWeAreLetIn() {
        List<Event.Call> calls = List.of(
                RealServer.call("SEARCH", "/", "{\"where\":{\"uid\":\"aino\"}}"),
                RealServer.call("JOIN", "/", "{\"group\":{\"cn\":\"roster\"},\"member\":{\"uid\":\"aino\"}}"));
        Greeted said = greet(address, PASSWORD, calls);
        assertThat(said.letIn()).isEqualTo(Greeted.Says.YES);
        assertThat(said.given())
                .extracting(Greeted.Given::says)
                .containsExactly(Greeted.Says.YES, Greeted.Says.CANNOT_SAY);
        assertThat(greet(address, "wrong", calls).letIn()).isEqualTo(Greeted.Says.NO);
        assertThat(greet(address, "wrong", calls).why())
                .contains("invalid credentials")
                .doesNotContain("wrong");
        assertThat(greet(address.replaceFirst(":\\d+/", ":" + FreePort.any() + "/"), PASSWORD, calls)
                        .reached())
                .isEqualTo(Greeted.Says.NO);
    }

    private static Greeted greet(String at, String password, List<Event.Call> calls) {
        try (Connectors all = new Connectors()) {
            return all.greet(new Connection("c", "The directory", at, List.of(), "key"), password, calls);
        }
    }
}
