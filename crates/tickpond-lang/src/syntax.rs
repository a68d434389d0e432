//! The lossless tree: every character of the text is in it, mistakes included.

/// Sorts of tokens and nodes. Tokens come first, up to [`SyntaxKind::StrayToken`].
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, PartialOrd, Ord)]
#[repr(u16)]
#[allow(missing_docs, reason = "each is named after the one thing it stands for")]
pub enum SyntaxKind {
    Whitespace,
    Comment,
    Ident,
    Keyword,
    Number,
    Text,
    OpenBrace,
    CloseBrace,
    OpenParen,
    CloseParen,
    Comma,
    Semicolon,
    Colon,
    Hash,
    Dot,
    DotDot,
    Assign,
    PlusAssign,
    MinusAssign,
    Plus,
    Minus,
    PlusMinus,
    Star,
    Slash,
    Equal,
    NotEqual,
    Less,
    LessEqual,
    Greater,
    GreaterEqual,
    StrayToken,
    // The pond and its items.
    File,
    Header,
    ArenaLine,
    EdgesLine,
    EdgeRule,
    WallPart,
    LastsLine,
    RateLine,
    LimitLine,
    LimitPart,
    ViewLine,
    GravityLine,
    Knob,
    KnobRange,
    Spots,
    Spot,
    Zone,
    Input,
    Message,
    Params,
    Param,
    Kind,
    TagLine,
    LookLine,
    BodyLine,
    BodyOption,
    HealthLine,
    Vars,
    Var,
    Mount,
    DriftsLine,
    StatesLine,
    InState,
    UsesLine,
    Spawner,
    MakesLine,
    EveryLine,
    KeepLine,
    AgainLine,
    TotalLine,
    BatchLine,
    FromLine,
    UntilLine,
    Place,
    Behavior,
    Function,
    ValueFunction,
    Tape,
    TapeStep,
    Routine,
    Watch,
    Expect,
    // Handlers and their heads.
    Handler,
    OnBirth,
    OnEnd,
    OnHurt,
    OnTouch,
    OnLeaveArena,
    OnZone,
    OnLine,
    OnTouchEdge,
    OnPart,
    OnImpact,
    OnDown,
    OnBecoming,
    OnQuitting,
    When,
    WhileTouching,
    WhileInactive,
    Overlapping,
    OnPress,
    OnRelease,
    OnMessage,
    WhileHeld,
    After,
    Every,
    EveryTick,
    FromName,
    AsName,
    // Statements.
    Block,
    AssignStmt,
    TurnStmt,
    SpawnStmt,
    DamageStmt,
    HealStmt,
    EndStmt,
    SendStmt,
    IfStmt,
    RepeatStmt,
    WaitStmt,
    WaitUntilStmt,
    WaveStmt,
    SayStmt,
    LetStmt,
    BecomeStmt,
    PushStmt,
    ThrustStmt,
    HeadStmt,
    ReplaceStmt,
    RayStmt,
    ShowStmt,
    BlastStmt,
    AttachStmt,
    DetachStmt,
    ActivateStmt,
    EachStmt,
    CallStmt,
    // Where and how something is born.
    OptAt,
    OptFacing,
    OptToward,
    OptSpeed,
    OptVel,
    OptSpread,
    OptSpaced,
    OptHealth,
    OptLabel,
    OptVars,
    OptPush,
    OptInactive,
    OptAttached,
    OptAlong,
    OptKeeping,
    NotWithin,
    ClearOf,
    Around,
    OnRing,
    EachSpot,
    Anywhere,
    AlongEdge,
    Target,
    // Expressions.
    NameExpr,
    NumberExpr,
    TextExpr,
    PairExpr,
    PairUnit,
    ParenExpr,
    UnaryExpr,
    BinaryExpr,
    FieldExpr,
    CallExpr,
    QueryExpr,
    KindSet,
    ByCauses,
    WithinPart,
    WherePart,
    TouchingPart,
    BecausePart,
    CreditPart,
    RandomExpr,
    AnyAngle,
    DirectionTo,
    DistanceTo,
    AliveExpr,
    NamedEntity,
    RandomOne,
    Args,
    // Checks.
    CheckAlways,
    CheckNever,
    CheckAt,
    CheckBy,
    CheckFrom,
    CheckInTheEnd,
    CheckLives,
    CheckEnds,
    CheckHurt,
    OnTape,
    CheckAfter,
    CheckEvent,
    Broken,
}

use SyntaxKind::*;

impl SyntaxKind {
    /// White space and comments.
    pub fn is_trivia(self) -> bool {
        matches!(self, Whitespace | Comment)
    }

    fn from_raw(raw: u16) -> SyntaxKind {
        ALL[raw as usize]
    }
}

macro_rules! all_kinds { ($($kind:ident)*) => { &[$($kind),*] }; }
const ALL: &[SyntaxKind] = all_kinds![
    Whitespace Comment Ident Keyword Number Text
    OpenBrace CloseBrace OpenParen CloseParen Comma Semicolon Colon Hash Dot DotDot
    Assign PlusAssign MinusAssign Plus Minus PlusMinus Star Slash
    Equal NotEqual Less LessEqual Greater GreaterEqual StrayToken
    File Header ArenaLine EdgesLine EdgeRule WallPart LastsLine RateLine LimitLine LimitPart ViewLine GravityLine
    Knob KnobRange Spots Spot Zone Input Message Params Param
    Kind TagLine LookLine BodyLine BodyOption HealthLine Vars Var Mount DriftsLine StatesLine InState UsesLine
    Spawner MakesLine EveryLine KeepLine AgainLine TotalLine BatchLine FromLine UntilLine
    Place Behavior Function ValueFunction Tape TapeStep Routine Watch Expect
    Handler OnBirth OnEnd OnHurt OnTouch OnLeaveArena OnZone OnLine OnTouchEdge OnPart OnImpact OnDown OnBecoming OnQuitting When WhileTouching WhileInactive Overlapping OnPress OnRelease OnMessage
    WhileHeld After Every EveryTick FromName AsName
    Block AssignStmt TurnStmt SpawnStmt DamageStmt HealStmt EndStmt SendStmt
    IfStmt RepeatStmt WaitStmt WaitUntilStmt WaveStmt SayStmt LetStmt BecomeStmt PushStmt ThrustStmt HeadStmt ReplaceStmt RayStmt ShowStmt BlastStmt AttachStmt DetachStmt ActivateStmt EachStmt CallStmt
    OptAt OptFacing OptToward OptSpeed OptVel OptSpread OptSpaced OptHealth OptLabel
    OptVars OptPush OptInactive OptAttached OptAlong OptKeeping NotWithin ClearOf Around OnRing EachSpot Anywhere AlongEdge Target
    NameExpr NumberExpr TextExpr PairExpr PairUnit ParenExpr UnaryExpr BinaryExpr
    FieldExpr CallExpr QueryExpr KindSet ByCauses WithinPart WherePart TouchingPart BecausePart CreditPart RandomExpr
    AnyAngle DirectionTo DistanceTo AliveExpr NamedEntity RandomOne Args
    CheckAlways CheckNever CheckAt CheckBy CheckFrom CheckInTheEnd CheckLives CheckEnds CheckHurt OnTape
    CheckAfter CheckEvent
    Broken
];

/// The language as the tree library wants to know it.
#[derive(Clone, Copy, PartialEq, Eq, Hash, Debug, PartialOrd, Ord)]
pub enum Pond {}

impl rowan::Language for Pond {
    type Kind = SyntaxKind;

    fn kind_from_raw(raw: rowan::SyntaxKind) -> SyntaxKind {
        SyntaxKind::from_raw(raw.0)
    }

    fn kind_to_raw(kind: SyntaxKind) -> rowan::SyntaxKind {
        rowan::SyntaxKind(kind as u16)
    }
}

/// A node of the tree.
pub type Node = rowan::SyntaxNode<Pond>;
/// A token of the tree.
pub type Token = rowan::SyntaxToken<Pond>;

/// The short questions the later stages ask a node. On a broken tree the answer is `None`.
pub trait NodeExt {
    /// The first child node of this sort.
    fn child(&self, kind: SyntaxKind) -> Option<Node>;
    /// All child nodes of this sort.
    fn children_of(&self, kind: SyntaxKind) -> impl Iterator<Item = Node>;
    /// The names that stand directly in this node.
    fn names(&self) -> impl Iterator<Item = Token>;
    /// The first name that stands directly in this node.
    fn name(&self) -> Option<Token>;
    /// The first token of this sort that stands directly in this node.
    fn token(&self, kind: SyntaxKind) -> Option<Token>;
    /// The child nodes that are expressions.
    fn exprs(&self) -> impl Iterator<Item = Node>;
    /// The first child node that is an expression.
    fn expr(&self) -> Option<Node>;
}

impl NodeExt for Node {
    fn child(&self, kind: SyntaxKind) -> Option<Node> {
        self.children().find(|n| n.kind() == kind)
    }

    fn children_of(&self, kind: SyntaxKind) -> impl Iterator<Item = Node> {
        self.children().filter(move |n| n.kind() == kind)
    }

    fn names(&self) -> impl Iterator<Item = Token> {
        self.children_with_tokens().filter_map(|e| e.into_token()).filter(|t| t.kind() == Ident)
    }

    fn name(&self) -> Option<Token> {
        self.names().next()
    }

    fn token(&self, kind: SyntaxKind) -> Option<Token> {
        self.children_with_tokens().filter_map(|e| e.into_token()).find(|t| t.kind() == kind)
    }

    fn exprs(&self) -> impl Iterator<Item = Node> {
        self.children().filter(|n| is_expr(n.kind()))
    }

    fn expr(&self) -> Option<Node> {
        self.exprs().next()
    }
}

/// Whether a node of this sort gives a value.
pub fn is_expr(kind: SyntaxKind) -> bool {
    matches!(
        kind,
        NameExpr
            | NumberExpr
            | TextExpr
            | PairExpr
            | ParenExpr
            | UnaryExpr
            | BinaryExpr
            | FieldExpr
            | CallExpr
            | QueryExpr
            | RandomExpr
            | AnyAngle
            | DirectionTo
            | DistanceTo
            | AliveExpr
            | NamedEntity
            | RandomOne
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_list_of_kinds_is_in_the_order_of_the_enum() {
        for (i, kind) in ALL.iter().enumerate() {
            assert_eq!(*kind as usize, i, "{kind:?}");
        }
        assert_eq!(ALL.last(), Some(&Broken));
    }
}
