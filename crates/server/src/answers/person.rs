//! Who is signed in.

use crate::answers::answer;
use uuid::Uuid;
use vatten_store::person as store;

answer! {
    /// Who is signed in.
    pub struct Person from store::Person {
        /// Id.
        pub id: Uuid,
        /// Address.
        pub email: String,
        /// Name.
        pub name: String,
    }
}
