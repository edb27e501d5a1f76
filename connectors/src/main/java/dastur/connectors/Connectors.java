package dastur.connectors;

import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.net.URI;
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

    @Override
    public void close() {
        ssh.close();
    }
}
