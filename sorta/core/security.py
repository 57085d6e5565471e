"""What happens around who may do what: the kinds the security log knows, and each in words."""

from enum import StrEnum


class Happening(StrEnum):
    """A kind of entry; its words follow the member's name, `{what}` is what it is about."""

    SIGNED_IN = "signed_in"
    SIGN_IN_REFUSED = "sign_in_refused"
    SIGNED_OUT = "signed_out"
    PASSWORD_CHANGED = "password_changed"
    SECOND_ON = "second_on"
    SECOND_OFF = "second_off"
    SECOND_REFUSED = "second_refused"
    PASSKEY_MADE = "passkey_made"
    PASSKEY_REMOVED = "passkey_removed"
    PASSKEY_REFUSED = "passkey_refused"
    PROVIDER_LINKED = "provider_linked"
    PLACE_GIVEN = "place_given"
    PLACE_GONE = "place_gone"
    GROUP_WORKS = "group_works"
    GROUP_WORKS_NO_MORE = "group_works_no_more"
    RECOVERED = "recovered"
    CODES_RENEWED = "codes_renewed"
    SESSIONS_ENDED = "sessions_ended"
    SECOND_NEEDED = "second_needed"
    INVITED = "invited"
    INVITED_NO_MORE = "invited_no_more"
    CAME_IN = "came_in"
    WORKSPACE_MADE = "workspace_made"
    WORKSPACE_CHANGED = "workspace_changed"
    LOOKS = "looks"
    ARCHIVED = "archived"
    BROUGHT_BACK = "brought_back"
    ROLE_GIVEN = "role_given"
    LET_GO = "let_go"
    LIMITED = "limited"
    GROUP_ADDED = "group_added"
    GROUP_CHANGED = "group_changed"
    GROUP_REMOVED = "group_removed"
    TEAM_ADDED = "team_added"
    TEAM_CHANGED = "team_changed"
    ROLE_ADDED = "role_added"
    ROLE_CHANGED = "role_changed"
    ROLE_REMOVED = "role_removed"
    POLICY_ADDED = "policy_added"
    POLICY_CHANGED = "policy_changed"
    POLICY_REMOVED = "policy_removed"
    CONNECTED = "connected"
    DISCONNECTED = "disconnected"
    TOKEN_MADE = "token_made"
    TOKEN_TAKEN_BACK = "token_taken_back"
    PROGRAM_TOLD = "program_told"
    PROGRAM_TOLD_NO_MORE = "program_told_no_more"
    TOKEN_CHANGED = "token_changed"
    SIGNS_OFF = "signs_off"
    SECRET_CHANGED = "secret_changed"
    MAIL_DOMAINS = "mail_domains"
    HELD = "held"
    RELEASED = "released"
    EXPORTED = "exported"
    IMPORTED = "imported"
    SHARED = "shared"
    SHARED_NO_MORE = "shared_no_more"


WORDS = {
    Happening.SIGNED_IN: "signed in",
    Happening.SIGN_IN_REFUSED: "was not let in: the password was wrong",
    Happening.SIGNED_OUT: "signed out",
    Happening.PASSWORD_CHANGED: "changed the password; sessions elsewhere ended",
    Happening.SECOND_ON: "signs in with the codes of an app from now on; sessions elsewhere ended",
    Happening.SECOND_OFF: "signs in without the codes of an app from now on; sessions elsewhere ended",
    Happening.SECOND_REFUSED: "was not let in: the code was wrong",
    Happening.PASSKEY_MADE: "made the passkey {what}; sessions elsewhere ended",
    Happening.PASSKEY_REMOVED: "removed the passkey {what}; sessions elsewhere ended",
    Happening.PASSKEY_REFUSED: "was not let in: the passkey did not hold ({what})",
    Happening.PROVIDER_LINKED: "can sign in by {what} from now on",
    Happening.PLACE_GIVEN: "works here by the group {what}",
    Happening.PLACE_GONE: "is in no group at {what} any more that works here, and left",
    Happening.GROUP_WORKS: "lets a group work here: {what}",
    Happening.GROUP_WORKS_NO_MORE: "lets the group {what} work here no more",
    Happening.RECOVERED: "used a recovery code",
    Happening.CODES_RENEWED: "made new recovery codes",
    Happening.SESSIONS_ENDED: "ended sessions elsewhere",
    Happening.SECOND_NEEDED: "set what signing in needs here: {what}",
    Happening.INVITED: "invited {what}",
    Happening.INVITED_NO_MORE: "took back the invitation of {what}",
    Happening.CAME_IN: "came in by an invitation: {what}",
    Happening.WORKSPACE_MADE: "made this workspace{what}",
    Happening.WORKSPACE_CHANGED: "calls the workspace {what}",
    Happening.LOOKS: "gave the workspace {what}",
    Happening.ARCHIVED: "archived the workspace",
    Happening.BROUGHT_BACK: "brought the workspace back",
    Happening.ROLE_GIVEN: "gave a role: {what}",
    Happening.LET_GO: "let {what} go, who works here no more",
    Happening.LIMITED: "set what a member sees: {what}",
    Happening.GROUP_ADDED: "made the account group {what}",
    Happening.GROUP_CHANGED: "changed the account group {what}",
    Happening.GROUP_REMOVED: "removed the account group {what}",
    Happening.TEAM_ADDED: "made the team {what}",
    Happening.TEAM_CHANGED: "changed the team {what}",
    Happening.ROLE_ADDED: "made the role {what}",
    Happening.ROLE_CHANGED: "changed what the role {what} holds",
    Happening.ROLE_REMOVED: "removed the role {what}",
    Happening.POLICY_ADDED: "made the approval policy {what}",
    Happening.POLICY_CHANGED: "changed the approval policy {what}",
    Happening.POLICY_REMOVED: "removed the approval policy {what}",
    Happening.CONNECTED: "connected {what}",
    Happening.DISCONNECTED: "disconnected {what}",
    Happening.TOKEN_MADE: "made a token for a program, {what}",
    Happening.TOKEN_TAKEN_BACK: "took back the token {what}",
    Happening.PROGRAM_TOLD: "set what a program is told, {what}",
    Happening.PROGRAM_TOLD_NO_MORE: "has the program {what} told nothing more",
    Happening.SIGNS_OFF: "changed what closes the answers of {what}",
    Happening.TOKEN_CHANGED: "gave {what} a new access token",
    Happening.SECRET_CHANGED: "made a new signing secret for {what}",
    Happening.MAIL_DOMAINS: "set whom outside can be asked: {what}",
    Happening.HELD: "held everything outgoing: {what}",
    Happening.RELEASED: "let go out what was held",
    Happening.EXPORTED: "exported {what}",
    Happening.IMPORTED: "brought in from a file: {what}",
    Happening.SHARED: "shared a report by a link: {what}",
    Happening.SHARED_NO_MORE: "took back the link to a report: {what}",
}


def say(happening: Happening, what: str) -> str:
    """The entry in words, to stand after the member's name."""
    return WORDS[happening].format(what=what)
