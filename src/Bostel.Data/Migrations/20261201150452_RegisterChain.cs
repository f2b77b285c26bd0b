using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bostel.Data.Migrations
{
    /// <inheritdoc />
    public partial class RegisterChain : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<DateTimeOffset>(
                name: "CountersignedAt",
                table: "Reports",
                type: "timestamp with time zone",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "CountersignedBy",
                table: "Reports",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "HtmlSha",
                table: "Reports",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "JsonSha",
                table: "Reports",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<bool>(
                name: "NeedsCountersignature",
                table: "Reports",
                type: "boolean",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<string>(
                name: "NoteSha",
                table: "Reports",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "QifSha",
                table: "Reports",
                type: "text",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "SupersededBy",
                table: "Reports",
                type: "text",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "RegisterEntries",
                columns: table => new
                {
                    Number = table.Column<int>(type: "integer", nullable: false),
                    Event = table.Column<string>(type: "text", nullable: false),
                    Report = table.Column<string>(type: "text", nullable: false),
                    Who = table.Column<string>(type: "text", nullable: false),
                    At = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false),
                    Content = table.Column<string>(type: "text", nullable: false),
                    Before = table.Column<string>(type: "text", nullable: false),
                    Hash = table.Column<string>(type: "text", nullable: false),
                    KeyId = table.Column<string>(type: "text", nullable: false),
                    Signature = table.Column<string>(type: "text", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_RegisterEntries", x => x.Number);
                });

            migrationBuilder.CreateTable(
                name: "SigningKeys",
                columns: table => new
                {
                    Id = table.Column<string>(type: "text", nullable: false),
                    PublicKey = table.Column<string>(type: "text", nullable: false),
                    CreatedAt = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_SigningKeys", x => x.Id);
                });

            migrationBuilder.InsertData(
                table: "Counters",
                columns: new[] { "Name", "Next" },
                values: new object[] { "register", 1 });

            migrationBuilder.CreateIndex(
                name: "IX_RegisterEntries_Report",
                table: "RegisterEntries",
                column: "Report");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "RegisterEntries");

            migrationBuilder.DropTable(
                name: "SigningKeys");

            migrationBuilder.DeleteData(
                table: "Counters",
                keyColumn: "Name",
                keyValue: "register");

            migrationBuilder.DropColumn(
                name: "CountersignedAt",
                table: "Reports");

            migrationBuilder.DropColumn(
                name: "CountersignedBy",
                table: "Reports");

            migrationBuilder.DropColumn(
                name: "HtmlSha",
                table: "Reports");

            migrationBuilder.DropColumn(
                name: "JsonSha",
                table: "Reports");

            migrationBuilder.DropColumn(
                name: "NeedsCountersignature",
                table: "Reports");

            migrationBuilder.DropColumn(
                name: "NoteSha",
                table: "Reports");

            migrationBuilder.DropColumn(
                name: "QifSha",
                table: "Reports");

            migrationBuilder.DropColumn(
                name: "SupersededBy",
                table: "Reports");
        }
    }
}
