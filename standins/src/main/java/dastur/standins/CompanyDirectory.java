package dastur.standins;

import com.unboundid.ldap.listener.InMemoryDirectoryServer;
import com.unboundid.ldap.listener.InMemoryDirectoryServerConfig;
import com.unboundid.ldap.listener.InMemoryListenerConfig;
import com.unboundid.ldap.listener.interceptor.InMemoryInterceptedModifyRequest;
import com.unboundid.ldap.listener.interceptor.InMemoryOperationInterceptor;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldif.LDIFException;
import java.net.InetAddress;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/** The company's directory, over LDAP: who may see the roster is a group of it. */
public final class CompanyDirectory implements AutoCloseable {
    private static final String BASE = "dc=kestrel,dc=example";
    private static final String USER = "cn=dastur," + BASE;
    private static final List<String> PEOPLE =
            List.of("ada", "aino", "birk", "greta", "mira", "oskar", "pavel", "runa", "sem", "teo");

    private final InMemoryDirectoryServer server;

    CompanyDirectory(String password, Faults faults) {
        try {
            InMemoryDirectoryServerConfig config = new InMemoryDirectoryServerConfig(BASE);
            config.addAdditionalBindCredentials(USER, password);
            config.setListenerConfigs(
                    InMemoryListenerConfig.createLDAPConfig("local", InetAddress.getLoopbackAddress(), 0, null));
            config.addInMemoryOperationInterceptor(new InMemoryOperationInterceptor() {
                @Override
                public void processModifyRequest(InMemoryInterceptedModifyRequest request) throws LDAPException {
                    if (faults.of("directory") == Faults.Fault.REFUSES) {
                        throw new LDAPException(ResultCode.UNWILLING_TO_PERFORM, "the directory is read-only tonight");
                    }
                }
            });
            server = new InMemoryDirectoryServer(config);
            server.add("dn: " + BASE, "objectClass: domain", "dc: kestrel");
            server.add("dn: ou=people," + BASE, "objectClass: organizationalUnit", "ou: people");
            for (String id : PEOPLE) {
                server.add(
                        "dn: uid=" + id + ",ou=people," + BASE,
                        "objectClass: inetOrgPerson",
                        "uid: " + id,
                        "cn: " + id,
                        "sn: " + id);
            }
            server.add(
                    "dn: cn=roster," + BASE,
                    "objectClass: groupOfNames",
                    "cn: roster",
                    "member: uid=birk,ou=people," + BASE);
            server.startListening();
        } catch (LDAPException | LDIFException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Where it is reached. */
    public String address() {
        return "ldap://127.0.0.1:" + server.getListenPort() + "/" + BASE + "?bind=" + USER + "&tls=none";
    }

    /** Who may see the roster, by their names in the directory. */
    public List<String> roster() {
        try {
            String[] members = server.getEntry("cn=roster," + BASE).getAttributeValues("member");
            return List.of(members).stream()
                    .map(dn -> dn.replaceFirst("uid=([^,]*),.*", "$1"))
                    .sorted()
                    .toList();
        } catch (LDAPException e) {
            throw new IllegalStateException(e);
        }
    }

    /** The group as the control page shows it. */
    Map<String, String> groups() {
        return new TreeMap<>(Map.of("roster", String.join(", ", roster())));
    }

    @Override
    public void close() {
        server.shutDown(true);
    }
}
