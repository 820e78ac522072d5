//! What a person is in a shop, and what a script may do for them.

use serde::{Deserialize, Serialize};

/// What a person is in a shop: each may all that those before may.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, sqlx::Type,
)]
#[serde(rename_all = "snake_case")]
#[sqlx(type_name = "text", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = ShopRole))]
pub enum Role {
    /// Looks.
    Reader,
    /// Fires and reads; plans nothing.
    Helper,
    /// Plans.
    Smith,
    /// Says who works in the shop.
    Owner,
}

impl Role {
    /// As the database keeps it.
    #[must_use]
    pub fn key(self) -> &'static str {
        match self {
            Self::Reader => "reader",
            Self::Helper => "helper",
            Self::Smith => "smith",
            Self::Owner => "owner",
        }
    }
}

/// What a token may do, and no more than the person who made it.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, sqlx::Type,
)]
#[serde(rename_all = "snake_case")]
#[sqlx(type_name = "text", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema), schema(as = TokenScope))]
pub enum Scope {
    /// Reads.
    Read,
    /// Writes at the fire too: firings, events, readings, findings.
    Fire,
    /// Plans too.
    Plan,
}

impl Scope {
    /// As the database keeps it.
    #[must_use]
    pub fn key(self) -> &'static str {
        match self {
            Self::Read => "read",
            Self::Fire => "fire",
            Self::Plan => "plan",
        }
    }

    /// The role that may as much.
    #[must_use]
    pub fn role(self) -> Role {
        match self {
            Self::Read => Role::Reader,
            Self::Fire => Role::Helper,
            Self::Plan => Role::Smith,
        }
    }
}
