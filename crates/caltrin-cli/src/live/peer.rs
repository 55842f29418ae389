//! Whose process is at the other end of a connection on this machine.

use std::net::{IpAddr, SocketAddr};

use axum::extract::connect_info::Connected;
use axum::serve::IncomingStream;
use tokio::net::TcpListener;

/// The other end of a connection, looked up once when it is opened.
#[derive(Clone, Copy, Debug)]
pub struct Peer {
    /// Whether it is a process of the same user.
    pub is_own: bool,
}

impl Connected<IncomingStream<'_, TcpListener>> for Peer {
    fn connect_info(stream: IncomingStream<'_, TcpListener>) -> Self {
        Peer { is_own: is_own_user(*stream.remote_addr()) }
    }
}

/// Whether a connection comes from a process of the same user, or of the administrator. Other users of a shared machine
/// can connect to it too. Where the system does not say, it is taken as such.
fn is_own_user(peer: SocketAddr) -> bool {
    let own = own_user();
    let table = std::fs::read_to_string("/proc/net/tcp").unwrap_or_default();
    match (own, user_of(&table, peer)) {
        (Some(own), Some(user)) => user == own || user == 0,
        _ => true,
    }
}

#[cfg(target_os = "linux")]
fn own_user() -> Option<u32> {
    use std::os::unix::fs::MetadataExt;
    std::fs::metadata("/proc/self").ok().map(|about| about.uid())
}

#[cfg(not(target_os = "linux"))]
fn own_user() -> Option<u32> {
    None
}

/// The user of a local end in the system's table of connections.
fn user_of(table: &str, peer: SocketAddr) -> Option<u32> {
    let IpAddr::V4(address) = peer.ip() else { return None };
    let address = u32::from_le_bytes(address.octets());
    let wanted = format!("{address:08X}:{:04X}", peer.port());
    table.lines().skip(1).find_map(|line| {
        let fields: Vec<&str> = line.split_whitespace().collect();
        (fields.get(1) == Some(&wanted.as_str())).then(|| fields.get(7)?.parse().ok())?
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_table_says_whose_an_end_is() {
        let table = "  sl  local_address rem_address   st tx_queue rx_queue tr tm->when retrnsmt   uid  timeout inode\n\
                     \u{20}  0: 0100007F:222B 00000000:0000 0A 00000000:00000000 00:00000000 00000000  1000        0 1 1\n\
                     \u{20}  1: 0100007F:D431 0100007F:222B 01 00000000:00000000 00:00000000 00000000  1001        0 2 1\n";
        let of = |port| user_of(table, SocketAddr::from(([127, 0, 0, 1], port)));
        assert_eq!([of(0x222b), of(0xd431), of(80)], [Some(1000), Some(1001), None]);
        assert_eq!(user_of(table, "[::1]:80".parse().expect("an address")), None);
    }
}
