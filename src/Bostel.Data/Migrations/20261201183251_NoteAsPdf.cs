using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Bostel.Data.Migrations
{
    /// <inheritdoc />
    public partial class NoteAsPdf : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "NotePdfSha",
                table: "Reports",
                type: "text",
                nullable: true);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "NotePdfSha",
                table: "Reports");
        }
    }
}
