//! The language server over a web socket, for the book pane: the same services that other editors have over standard
//! input and output.

use std::thread;

use axum::extract::ws::{Message as Frame, WebSocket, WebSocketUpgrade};
use axum::extract::{Query, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use lsp_server::{Connection, Message};
use serde::Deserialize;
use serde_json::Value;

use super::Live;

/// The key of the page.
#[derive(Deserialize)]
pub struct Key {
    key: String,
}

/// Opens the socket for a page with the right key.
pub async fn open(
    State(live): State<Live>,
    Query(Key { key }): Query<Key>,
    upgrade: WebSocketUpgrade,
) -> Response {
    if !live.is_key(&key) {
        return (StatusCode::FORBIDDEN, "only this page can ask").into_response();
    }
    upgrade.on_upgrade(|socket| talk(socket, live))
}

/// Passes messages on between the socket and a server of its own.
async fn talk(mut socket: WebSocket, live: Live) {
    let (client, server) = Connection::memory();
    thread::spawn(move || crate::lsp::session(&server));
    let Connection { sender, receiver } = client;
    let (answers, mut answered) = tokio::sync::mpsc::unbounded_channel();
    thread::spawn(move || {
        for message in receiver {
            if answers.send(message).is_err() {
                break;
            }
        }
    });
    loop {
        tokio::select! {
            frame = socket.recv() => match frame {
                Some(Ok(Frame::Text(text))) => {
                    let Ok(message) = serde_json::from_str::<Message>(&text) else { break };
                    if concerns(&live, &message) && sender.send(message).is_err() {
                        break;
                    }
                }
                Some(Ok(Frame::Ping(_) | Frame::Pong(_))) => {}
                _ => break,
            },
            message = answered.recv() => {
                let Some(message) = message else { break };
                let Ok(Value::Object(mut fields)) = serde_json::to_value(&message) else { continue };
                fields.insert("jsonrpc".to_owned(), "2.0".into());
                if socket.send(Frame::Text(Value::Object(fields).to_string().into())).await.is_err() {
                    break;
                }
            }
        }
    }
}

/// Whether a message is about no document, or about one that the page can show.
fn concerns(live: &Live, message: &Message) -> bool {
    let params = match message {
        Message::Request(request) => &request.params,
        Message::Notification(note) => &note.params,
        Message::Response(_) => return true,
    };
    let Some(uri) = params["textDocument"]["uri"].as_str() else { return true };
    let path = url::Url::parse(uri).ok().and_then(|uri| uri.to_file_path().ok());
    path.is_some_and(|path| {
        live.bench()
            .texts()
            .any(|(known, _)| std::path::absolute(known).is_ok_and(|known| known == path))
    })
}
