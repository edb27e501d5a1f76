package dastur.connectors;

import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.net.URI;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** Every protocol's connector under one roof: the connection says which one a call goes by. */
public final class Connectors implements Connector, AutoCloseable {
    private final HttpConnector http = new HttpConnector();
    private final SshConnector ssh = new SshConnector();
    private final DnsConnector dns = new DnsConnector();
    private final SqlConnector sql = new SqlConnector();
    private final LdapConnector ldap = new LdapConnector();
    private final SftpConnector sftp = new SftpConnector(ssh);
    private final WalkConnector walk = new WalkConnector();

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        Connector connector;
        if (connection.inZone().isPresent()) {
            return new CallOutcome.Fault("Only a relay reaches '" + connection.name() + "'. Nothing was sent.", false);
        }
        try {
            connector = switch (connection.protocol()) {
                case HTTP -> http;
                case SSH -> ssh;
                case DNS -> dns;
                case SQL -> sql;
                case SFTP -> sftp;
                case LDAP -> ldap;
                case WALK -> walk;
                case SCRIPT -> throw new IllegalArgumentException("scripts are a relay's");
            };
        } catch (IllegalArgumentException e) {
            return new CallOutcome.Fault("The address of '" + connection.name() + "' is not valid.", false);
        }
        try {
            Outward.check(
                    connection,
                    Objects.requireNonNullElse(URI.create(connection.base()).getHost(), ""));
        } catch (Outward.Refused e) {
            return new CallOutcome.Fault(String.valueOf(e.getMessage()), false);
        }
        return connector.call(call, connection, secret, heartbeat);
    }

    /**
     * Finds out over a connection who answers, whether we are let in, and whether what calls over it need is given. Nothing is done
     * there.
     *
     * @param secret the value of the connection's secret; null for none. It never appears in the result.
     */
    public Greeted greet(Connection connection, @Nullable String secret, List<Event.Call> calls) {
        if (connection.inZone().isPresent()) {
            return Greeted.untried("Only a relay reaches it, and tells of itself what it may do.", calls.size());
        }
        try {
            Outward.check(
                    connection,
                    Objects.requireNonNullElse(URI.create(connection.base()).getHost(), ""));
            Greeter.Way way =
                    switch (connection.protocol()) {
                        case HTTP -> http::greet;
                        case SSH -> ssh::greet;
                        case DNS -> dns::greet;
                        case SQL -> sql::greet;
                        case SFTP -> sftp::greet;
                        case LDAP -> ldap::greet;
                        case WALK -> (c, s, all) -> Greeter.walk(http, c, all.size());
                        case SCRIPT -> throw new IllegalArgumentException("scripts are a relay's");
                    };
            return Greeter.greet(way, connection, secret, calls);
        } catch (Outward.Refused e) {
            return Greeted.untried(String.valueOf(e.getMessage()), calls.size());
        } catch (IllegalArgumentException e) {
            return Greeted.untried("The address of '" + connection.name() + "' is not valid.", calls.size());
        }
    }

    @Override
    public void close() {
        ssh.close();
    }
}
