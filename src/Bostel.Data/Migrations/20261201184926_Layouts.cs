using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bostel.Data.Migrations
{
    /// <inheritdoc />
    public partial class Layouts : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.CreateTable(
                name: "Layouts",
                columns: table => new
                {
                    Name = table.Column<string>(type: "text", nullable: false),
                    Body = table.Column<string>(type: "text", nullable: false),
                    ForNewParts = table.Column<bool>(type: "boolean", nullable: false),
                    ChangedBy = table.Column<string>(type: "text", nullable: false),
                    ChangedAt = table.Column<DateTimeOffset>(type: "timestamp with time zone", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Layouts", x => x.Name);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Layouts_ForNewParts",
                table: "Layouts",
                column: "ForNewParts",
                unique: true,
                filter: "\"ForNewParts\"");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropTable(
                name: "Layouts");
        }
    }
}
